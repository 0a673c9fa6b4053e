import type { Brief } from '@marmot/contract/briefs'
import { AVOIDABLE, type Avoidable } from '@marmot/core/weather'
import { X } from 'lucide-react'
import { Button, Choice } from '../ui/parts.tsx'
import { OutdoorsField } from '../weather/outdoors-field.tsx'
import { useBrief } from './brief.tsx'
import { Chip, CountField } from './chips.tsx'
import type { Arranging } from './use-arranging.ts'
import { WishField } from './wish-field.tsx'
import { listed, needWords } from './words.ts'

/** Words of at most so many letters are never cut. */
const SHORT = 14

type Need = Brief['needs'][number]

const EACH_SITE = 'each'
const MOST_NEEDS = 8
const A_ROOM: Need = { kind: 'room', siteId: null, least: 1, count: 1, seats: null, features: {} }
const KINDS: Record<Need['kind'], string> = {
  room: 'a room',
  lab: 'a lab',
  desk: 'a desk',
  equipment: 'equipment',
}
const FIELD = 'w-full rounded-md border border-soft/50 bg-paper px-2 py-1'

/** Features that some place of a kind has, on the site that is asked for. */
const featuresOf = ({ resources }: Arranging, need: Need): string[] => {
  const names = resources
    .filter((place) => place.kind === need.kind && (need.siteId === null || place.siteId === need.siteId))
    .flatMap((place) => Object.keys(place.features))
  return [...new Set(names)].sort()
}

const NeedFields = ({
  arranging,
  need,
  at,
  onNeed,
  onOut,
}: {
  arranging: Arranging
  need: Need
  at: number
  onNeed: (next: Partial<Need>) => void
  onOut: () => void
}) => {
  const { brief, change } = useBrief()
  const wanted = Object.entries(need.features)
  const others = featuresOf(arranging, need).filter((name) => !(name in need.features))
  const withFeature = (name: string, count: number | null) => {
    const { [name]: _, ...rest } = need.features
    onNeed({ features: count === null ? rest : { ...rest, [name]: count } })
  }
  return (
    <fieldset
      aria-label={`Place ${at + 1}`}
      className="flex flex-col gap-2 rounded-md border border-line bg-ground p-2"
    >
      <div className="flex items-end gap-2">
        <label className="flex flex-1 flex-col">
          What
          <select
            className={FIELD}
            value={need.kind}
            onChange={(event) => {
              const kind = KIND_NAMES.find((each) => each === event.target.value)
              if (kind) onNeed({ kind, features: {} })
            }}
          >
            {KIND_NAMES.map((kind) => (
              <option key={kind} value={kind}>
                {KINDS[kind]}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-1 flex-col">
          Where
          <select
            className={FIELD}
            value={need.siteId ?? EACH_SITE}
            onChange={(event) =>
              onNeed({ siteId: event.target.value === EACH_SITE ? null : event.target.value })
            }
          >
            <option value={EACH_SITE}>on each site</option>
            {arranging.sites.map((site) => (
              <option key={site.id} value={site.id}>
                {site.name}
              </option>
            ))}
          </select>
        </label>
        <button
          type="button"
          aria-label={`Without place ${at + 1}`}
          className="grid size-8 shrink-0 place-items-center rounded hover:bg-shade"
          onClick={onOut}
        >
          <X size={15} aria-hidden />
        </button>
      </div>
      <WishField
        key={`${need.kind} ${need.siteId}`}
        need={need}
        resources={arranging.resources}
        taken={brief.places}
        homeSite={arranging.me.siteId}
        onNeed={onNeed}
        onPlace={(placeId) => {
          change({ places: [...brief.places, placeId] })
          onOut()
        }}
      />
      <div className="grid grid-cols-3 gap-2">
        <CountField
          label="How many"
          none="1"
          most={8}
          value={need.count}
          onCount={(count) => onNeed({ count: count ?? 1 })}
        />
        {need.kind === 'room' || need.kind === 'lab' ? (
          <CountField
            label="Seats"
            none="as come"
            most={500}
            value={need.seats}
            onCount={(seats) => onNeed({ seats })}
          />
        ) : (
          <span />
        )}
        {need.siteId === null && (
          <CountField
            label="From people"
            none="1"
            most={50}
            value={need.least}
            onCount={(least) => onNeed({ least: least ?? 1 })}
          />
        )}
      </div>
      {wanted.map(([name, count]) => (
        <div key={name} className="flex items-end gap-2">
          <span className="flex-1 pb-1">with {name}</span>
          <div className="w-20">
            <CountField
              label="How many"
              none="1"
              most={100}
              value={count}
              onCount={(next) => withFeature(name, next ?? 1)}
            />
          </div>
          <button
            type="button"
            aria-label={`Without ${name}`}
            className="grid size-8 place-items-center rounded hover:bg-shade"
            onClick={() => withFeature(name, null)}
          >
            <X size={15} aria-hidden />
          </button>
        </div>
      ))}
      {others.length > 0 && (
        <select
          aria-label={`A feature of place ${at + 1}`}
          className={FIELD}
          value=""
          onChange={(event) => withFeature(event.target.value, 1)}
        >
          <option value="">with a feature…</option>
          {others.map((name) => (
            <option key={name} value={name}>
              {name}
            </option>
          ))}
        </select>
      )}
    </fieldset>
  )
}

const KIND_NAMES = ['room', 'lab', 'desk', 'equipment'] as const

const AVOID_WORDS: Record<Avoidable, string> = { rain: 'rain and snow', wind: 'strong wind' }

const outdoorsWords = ({ avoid }: NonNullable<Brief['outdoors']>, place: string): string =>
  [
    place,
    'out of doors',
    ...AVOIDABLE.flatMap((one) => (avoid.includes(one) ? { rain: 'dry', wind: 'calm' }[one] : [])),
  ]
    .filter(Boolean)
    .join(', ')

/** Whether it is out of doors, and what of the weather is rather to be avoided. */
const OutOfDoors = () => {
  const { brief, change } = useBrief()
  const { outdoors } = brief
  return (
    <fieldset className="border-line border-t pt-1">
      <legend className="sr-only">Out of doors</legend>
      <OutdoorsField
        value={outdoors?.siteId ?? null}
        onChange={(siteId) =>
          change({ outdoors: siteId === null ? null : { siteId, avoid: outdoors?.avoid ?? ['rain'] } })
        }
      />
      {outdoors &&
        AVOIDABLE.map((what) => (
          <Choice
            key={what}
            checked={outdoors.avoid.includes(what)}
            onChoose={(on) =>
              change({
                outdoors: {
                  ...outdoors,
                  avoid: AVOIDABLE.filter((one) => (one === what ? on : outdoors.avoid.includes(one))),
                },
              })
            }
          >
            rather without {AVOID_WORDS[what]}
          </Choice>
        ))}
    </fieldset>
  )
}

/** What places the meeting needs, several of them too, so that they are part of the search. */
export const NeedsChip = ({ arranging }: { arranging: Arranging }) => {
  const { brief, change } = useBrief()
  const { names, me } = arranging
  const { needs, outdoors } = brief
  const set = (at: number, next: Partial<Need>) =>
    change({ needs: needs.map((need, i) => (i === at ? { ...need, ...next } : need)) })
  const place = needs.length === 0 ? 'any place' : listed(needs.map((need) => needWords(need, names)))
  const words = outdoors ? outdoorsWords(outdoors, needs.length ? place : '') : place
  return (
    <Chip label="Places needed" words={words} whole={words.length <= SHORT}>
      <div className="flex max-h-[60dvh] flex-col gap-2 overflow-y-auto text-sm">
        {needs.length === 0 && (
          <p className="text-soft">
            No place is asked for. Say what you need, and only times when it can be had are openings.
          </p>
        )}
        {needs.map((need, at) => (
          <NeedFields
            // biome-ignore lint/suspicious/noArrayIndexKey: a need has no name but its place in the list
            key={at}
            arranging={arranging}
            need={need}
            at={at}
            onNeed={(next) => set(at, next)}
            onOut={() => change({ needs: needs.filter((_, i) => i !== at) })}
          />
        ))}
        <div className="flex flex-wrap gap-1.5">
          {needs.length === 0 && (
            <Button onClick={() => change({ needs: [A_ROOM] })}>A room on each site</Button>
          )}
          {needs.length < MOST_NEEDS && (
            <Button onClick={() => change({ needs: [...needs, { ...A_ROOM, siteId: me.siteId }] })}>
              {needs.length ? 'Another place' : 'A particular kind of place'}
            </Button>
          )}
        </div>
        {needs.length > 0 && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={brief.placesMust}
              onChange={(event) => change({ placesMust: event.target.checked })}
            />
            Only times when they can be had
          </label>
        )}
        <OutOfDoors />
      </div>
    </Chip>
  )
}
