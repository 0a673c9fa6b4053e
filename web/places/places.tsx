import { during, duringInWords } from '@marmot/core/availability'
import { isFree } from '@marmot/core/reservations'
import {
  clockText,
  DAY,
  dayOf,
  type Instant,
  instantOf,
  minuteOf,
  offsetAt,
  offsetInWords,
  spanInWords,
  toWall,
  wallOf,
  type ZoneTable,
  zoneTable,
} from '@marmot/core/time'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import { instantAxis } from '../lanes/axis.ts'
import { Board } from '../lanes/board.tsx'
import { type Lens, RIBBON_DAYS } from '../lanes/lens.ts'
import { Ribbon } from '../lanes/ribbon.tsx'
import type { BoardGroup, Chosen } from '../lanes/types.ts'
import { useLens } from '../lanes/use-lens.ts'
import { useBrief } from '../openings/brief.tsx'
import { problemWords } from '../platform/api.ts'
import { useKeys } from '../platform/keys.tsx'
import { useMe, useNow } from '../platform/session.tsx'
import { type PlaceLane, usePlaces } from '../resources/resources.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'

const KINDS = [
  { kind: 'all', name: 'All' },
  { kind: 'room', name: 'Rooms' },
  { kind: 'lab', name: 'Labs' },
  { kind: 'desk', name: 'Desks' },
  { kind: 'equipment', name: 'Equipment' },
] as const
type Kind = (typeof KINDS)[number]['kind']
const kindIn = (text: string | null): Kind => KINDS.find((one) => one.kind === text)?.kind ?? 'room'
const isOf = (kind: Kind, place: PlaceLane): boolean => kind === 'all' || place.resource.kind === kind
const LONGEST_LENS = 7
const MINUTES = 60

/** How a place stands at a moment: "free until 14:00", "taken until 15:30", "closed". */
const stateAt = (place: PlaceLane, at: Instant, home: ZoneTable): { words: string; free: boolean } => {
  const table = zoneTable(place.time.zone)
  const how = during(place.time, table, { start: at, end: at + 60_000 })
  if (how.state !== 'free') return { words: duringInWords(how, home).replace(/^busy/, 'taken'), free: false }
  const next = place.time.spans
    .filter((span) => span.start > at)
    .reduce((least, span) => Math.min(least, span.start), Number.POSITIVE_INFINITY)
  if (next - at > 12 * 3_600_000) return { words: 'free', free: true }
  return { words: `free until ${clockText(minuteOf(toWall(home, next)))}`, free: true }
}

const featureWords = (place: PlaceLane): string => {
  const features = Object.entries(place.resource.features).map(([name, count]) =>
    count > 1 ? `${count} ${name}` : name.replace(/s$/, ''),
  )
  return [
    place.seats > 1 ? `${place.seats} seats` : '',
    ...features,
    place.resource.floor ? `floor ${place.resource.floor}` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

const rulesOf = (place: PlaceLane): string[] => [
  ...(place.turnaround ? [`${place.turnaround} minutes are kept free after each use.`] : []),
  ...(place.resource.mayTake ? [] : ['Only trained people may take it.']),
  ...(place.resource.asksApproval ? ['Its steward approves each use.'] : []),
]

const Details = ({ place, onClose, day }: { place: PlaceLane; onClose: () => void; day: Lens }) => {
  const { zone } = useMe()
  const now = useNow()
  const { brief, change } = useBrief()
  const from = instantOf(zone, wallOf(day.first))
  const to = instantOf(zone, wallOf(day.first + day.days))
  const taken = place.reservations.filter(
    (each) => Date.parse(each.end) > from && Date.parse(each.start) < to,
  )
  const inBrief = brief.places.includes(place.id)
  return (
    <Sheet open onClose={onClose} title={place.name}>
      <div className="flex flex-col gap-3">
        <p>{featureWords(place)}</p>
        {place.resource.about && <p className="text-soft">{place.resource.about}</p>}
        {rulesOf(place).map((rule) => (
          <p key={rule} className="text-sm">
            {rule}
          </p>
        ))}
        {place.mayTake && place.resource.kind !== 'desk' && (
          <Button
            tone={inBrief ? 'plain' : 'primary'}
            onClick={() => {
              change({
                places: inBrief ? brief.places.filter((id) => id !== place.id) : [...brief.places, place.id],
              })
              onClose()
            }}
          >
            {inBrief ? 'Take it out of the brief' : 'Put it into the brief'}
          </Button>
        )}
        <h3 className="font-semibold">Who has it in these days</h3>
        {taken.length === 0 && <Empty>Nobody.</Empty>}
        <ul>
          {taken.map((each) => (
            <li key={each.id} className="border-line border-t py-1.5">
              <p>{spanInWords(Date.parse(each.start), Date.parse(each.end), zone, now)}</p>
              <p className="text-soft text-sm">
                {each.by}
                {each.title ? `: ${each.title}` : ''}
                {each.state === 'held' ? ' (held)' : ''}
              </p>
            </li>
          ))}
        </ul>
      </div>
    </Sheet>
  )
}

/** What is free, where, for how long? A lane for each place, by site. */
export const Places = () => {
  const { zone, session, person } = useMe()
  const now = useNow()
  const { brief } = useBrief()
  const view = useLens(
    (today) => ({ first: brief.start === null ? today : dayOf(toWall(zone, brief.start)), days: 1 }),
    LONGEST_LENS,
    (shownDays, today) => ({ ...shownDays, first: today }),
  )
  const { lens, ribbonFirst, from, to } = view
  const [address] = useSearchParams()
  const [kind, setKind] = useState<Kind>(kindIn(address.get('kind')))
  const [text, setText] = useState('')
  const [seats, setSeats] = useState(0)
  const [onlyFree, setOnlyFree] = useState(false)
  const [chosen, setChosen] = useState<Chosen | null>(
    brief.start === null
      ? null
      : { start: brief.start, end: brief.start + brief.minutes * 60_000, rowId: null },
  )
  const [details, setDetails] = useState<string | null>(address.get('place'))
  const asked = address.get('place')
  useEffect(() => {
    if (!asked) return
    setKind(kindIn(address.get('kind')))
    setDetails(asked)
  }, [asked, address])
  const search = useRef<HTMLInputElement>(null)
  const { places, pending, error } = usePlaces(from, to)
  const axis = useMemo(
    () => instantAxis(instantOf(zone, wallOf(lens.first)), instantOf(zone, wallOf(lens.first + lens.days))),
    [zone, lens.first, lens.days],
  )
  const wanted = text.trim().toLowerCase()
  const shown = places.filter(
    (place) =>
      isOf(kind, place) &&
      place.seats >= seats &&
      (!onlyFree || (chosen ? isFree(place, chosen) : stateAt(place, now, zone).free)) &&
      (!wanted ||
        `${place.name} ${featureWords(place)} ${place.resource.about}`.toLowerCase().includes(wanted)),
  )
  const fill = useMemo(() => {
    const open = places.filter((place) => isOf(kind, place))
    return Float32Array.from({ length: RIBBON_DAYS }, (_, i) => {
      const start = instantOf(zone, wallOf(ribbonFirst + i))
      const taken = open.reduce(
        (sum, place) =>
          sum +
          place.time.spans.reduce(
            (inner, span) =>
              inner + Math.max(0, Math.min(span.end, start + DAY) - Math.max(span.start, start)),
            0,
          ),
        0,
      )
      return open.length ? Math.min(1, taken / (open.length * 8 * 3_600_000)) : 0
    })
  }, [places, kind, zone, ribbonFirst])
  const sites = [...session.sites].sort(
    (a, b) => Number(b.id === person.siteId) - Number(a.id === person.siteId) || a.name.localeCompare(b.name),
  )
  const groups = sites.flatMap((site): BoardGroup[] => {
    const inside = shown.filter((place) => place.siteId === site.id)
    if (inside.length === 0) return []
    const table = zoneTable(site.zone)
    return [
      {
        id: site.id,
        zone: table,
        axis,
        title: (
          <>
            <b>{site.name}</b>{' '}
            <span className="text-soft">{offsetInWords(offsetAt(table, chosen?.start ?? axis.from))}</span>
          </>
        ),
        rows: inside.map((place) => {
          const state = chosen
            ? {
                free: isFree(place, chosen),
                words: duringInWords(during(place.time, table, chosen), zone).replace(/^busy/, 'taken'),
              }
            : stateAt(place, now, zone)
          return {
            id: place.id,
            name: `${place.name}, ${site.name}`,
            time: place.time,
            axis,
            label: (
              <button
                type="button"
                onClick={() => setDetails(place.id)}
                className="block w-full rounded text-left leading-[1.15] hover:bg-shade"
              >
                <span className="flex items-baseline gap-1.5">
                  <span className="truncate font-semibold text-[14px]">{place.name}</span>
                  {place.seats > 1 && (
                    <span className="whitespace-nowrap text-soft text-xs">{place.seats} seats</span>
                  )}
                </span>
                <span className={`block truncate text-[12.5px] ${state.free ? '' : 'text-soft'}`}>
                  {chosen ? '' : 'now '}
                  {state.words}
                </span>
              </button>
            ),
          }
        }),
      },
    ]
  })
  useKeys([
    { keys: '/', does: 'Find a place', on: '/', run: () => search.current?.focus() },
    { keys: '← →', does: 'Move the chosen time (in the lanes)' },
    { keys: 'Escape', does: 'Let the chosen time go' },
  ])
  const place = places.find((each) => each.id === details)
  return (
    <>
      <h1 className="sr-only">Places and equipment</h1>
      <Ribbon view={view} fill={fill} meaning="taken" />
      <div className="flex flex-wrap items-center gap-2 px-4.5 py-2 max-md:px-2.5">
        <div
          role="radiogroup"
          aria-label="Kind"
          className="flex overflow-hidden rounded-md border border-soft/50"
        >
          {KINDS.map((each) => (
            // biome-ignore lint/a11y/useSemanticElements: one choice of five that looks like the other controls
            <button
              key={each.kind}
              type="button"
              role="radio"
              aria-checked={kind === each.kind}
              onClick={() => setKind(each.kind)}
              className={`px-3 py-1 ${kind === each.kind ? 'bg-ink text-ground' : 'bg-paper hover:bg-shade'}`}
            >
              {each.name}
            </button>
          ))}
        </div>
        <input
          ref={search}
          type="search"
          aria-label="Find a place by name or feature"
          placeholder="Find: camera, step-free, Col"
          value={text}
          onChange={(event) => setText(event.target.value)}
          className="w-56 rounded-md border border-soft/50 bg-paper px-2.5 py-1"
        />
        <label className="flex items-center gap-1.5">
          at least
          <input
            type="number"
            min={0}
            max={500}
            aria-label="Seats at least"
            value={seats || ''}
            placeholder="any"
            onChange={(event) => setSeats(Number(event.target.value))}
            className="w-18 rounded-md border border-soft/50 bg-paper px-2 py-1"
          />
          seats
        </label>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={onlyFree} onChange={(event) => setOnlyFree(event.target.checked)} />
          {chosen ? 'free at the chosen time' : 'free now'}
        </label>
        {chosen && (
          <p className="ml-auto text-sm">
            <b>{spanInWords(chosen.start, chosen.end, zone, now)}</b>{' '}
            <button type="button" className="rounded px-1 underline" onClick={() => setChosen(null)}>
              let go
            </button>
          </p>
        )}
      </div>
      <div data-testid="lanes" className="min-h-0 flex-1 overflow-y-auto overflow-x-hidden pb-4">
        {error ? (
          <div className="px-4">
            <Trouble>{problemWords(error)}</Trouble>
          </div>
        ) : pending ? (
          <div className="px-4">
            <Loading what="the places" />
          </div>
        ) : groups.length === 0 ? (
          <div className="px-4.5">
            <Empty>
              No place fits that. Ask for fewer seats or another word{onlyFree ? ', or another time' : ''}.
            </Empty>
          </div>
        ) : (
          <div style={{ '--lane': '32px' }}>
            <Board
              label="Places"
              groups={groups}
              home={zone}
              now={now}
              step={15}
              minutes={chosen ? Math.round((chosen.end - chosen.start) / 60_000) : MINUTES}
              across="all"
              chosen={chosen}
              days={lens.days > 1}
              onChoose={setChosen}
              onOpen={(_, row) => setDetails(row.id)}
            />
          </div>
        )}
      </div>
      {place && <Details place={place} day={lens} onClose={() => setDetails(null)} />}
    </>
  )
}
