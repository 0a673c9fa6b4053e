import type { Brief } from '@marmot/contract/openings'
import { type DayOfOpenings, type Help, type Opening, openingsByDay, STEPS } from '@marmot/core/openings'
import {
  clocksInWords,
  clockText,
  dayOf,
  dayText,
  lengthInWords,
  minuteOf,
  parseLength,
  shortDay,
  shortTime,
  spanInWords,
  toWall,
  WEEKDAYS,
  wallFromText,
  zoneTable,
} from '@marmot/core/time'
import { Check, ChevronDown, ChevronLeft, ChevronRight, ChevronUp, TriangleAlert } from 'lucide-react'
import { Popover } from 'radix-ui'
import { type ReactNode, useState } from 'react'
import { toast } from 'sonner'
import { useTrayHeight } from '../lanes/room.ts'
import { Button } from '../ui/parts.tsx'
import { useBrief } from './brief.tsx'
import type { Arranging, Member } from './use-arranging.ts'
import type { HoldInHand } from './use-hold.ts'
import { helpWords, listed, partsWords, scoreLines, whyWords } from './words.ts'

const LENGTHS = [15, 30, 45, 60, 90, 120]
const WINDOWS = [7, 14, 28, 42]
const MOST_CARDS = 12
const MOST_PLACES = 6
const MOST_ALTERNATIVES = 4

/** What a jump asks of an opening beside those who are required. */
export interface Jumps {
  readonly optional: boolean
  readonly places: boolean
}

const Chip = ({ label, children, words }: { label: string; children: ReactNode; words: string }) => (
  <Popover.Root>
    <Popover.Trigger
      className="flex items-center gap-1 whitespace-nowrap rounded-full border border-soft/50 px-3 py-0.5 hover:bg-shade"
      aria-label={`${label}: ${words}`}
    >
      {words} <ChevronDown size={13} aria-hidden />
    </Popover.Trigger>
    <Popover.Portal>
      <Popover.Content
        side="top"
        align="start"
        sideOffset={6}
        aria-label={label}
        className="z-40 w-72 rounded-lg border border-line bg-paper p-3 shadow-xl"
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
)

const LengthChip = () => {
  const { brief, change } = useBrief()
  const [typed, setTyped] = useState('')
  const minutes = parseLength(typed)
  return (
    <Chip label="Length" words={lengthInWords(brief.minutes)}>
      <div className="flex flex-wrap gap-1.5">
        {LENGTHS.map((each) => (
          <Popover.Close key={each} asChild>
            <Button
              aria-pressed={brief.minutes === each}
              className={brief.minutes === each ? 'border-gentian font-semibold' : ''}
              onClick={() => change({ minutes: each })}
            >
              {lengthInWords(each)}
            </Button>
          </Popover.Close>
        ))}
      </div>
      <form
        className="mt-2 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (minutes) change({ minutes })
        }}
      >
        <input
          aria-label="Another length"
          placeholder="Another: 50m, 1h20"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          className="w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1"
        />
        <Button type="submit" disabled={!minutes}>
          {minutes ? lengthInWords(minutes) : 'Set'}
        </Button>
      </form>
    </Chip>
  )
}

const WindowChip = ({ today }: { today: number }) => {
  const { brief, change } = useBrief()
  const words = `${shortDay(brief.fromDay)} to ${shortDay(brief.toDay - 1)}`
  const set = (part: 'fromDay' | 'toDay', text: string) => {
    const wall = wallFromText(`${text}T00:00`)
    if (wall === null) return
    const day = dayOf(wall)
    if (part === 'fromDay') change({ fromDay: day, toDay: Math.max(brief.toDay, day + 1) })
    else change({ toDay: day + 1, fromDay: Math.min(brief.fromDay, day) })
  }
  const field = 'rounded-md border border-soft/50 bg-paper px-2 py-1'
  return (
    <Chip label="Window" words={words}>
      <div className="flex flex-wrap gap-1.5">
        {WINDOWS.map((days) => (
          <Popover.Close key={days} asChild>
            <Button onClick={() => change({ fromDay: today, toDay: today + days })}>
              {days === 7 ? 'A week' : `${days / 7} weeks`}
            </Button>
          </Popover.Close>
        ))}
      </div>
      <div className="mt-2 grid grid-cols-2 gap-2 text-sm">
        <label className="flex flex-col">
          From
          <input
            type="date"
            className={field}
            value={dayText(brief.fromDay)}
            onChange={(event) => set('fromDay', event.target.value)}
          />
        </label>
        <label className="flex flex-col">
          To
          <input
            type="date"
            className={field}
            value={dayText(brief.toDay - 1)}
            onChange={(event) => set('toDay', event.target.value)}
          />
        </label>
      </div>
    </Chip>
  )
}

/** "5 people · 1 optional · 1 guest". */
const peopleWords = (members: readonly Member[]): string => {
  const guests = members.filter((member) => !member.person && !member.pending).length
  const optional = members.filter((member) => !member.required).length
  const people = members.length - guests
  return [
    `${people} ${people === 1 ? 'person' : 'people'}`,
    optional ? `${optional} optional` : '',
    guests ? `${guests} ${guests === 1 ? 'guest' : 'guests'}` : '',
  ]
    .filter(Boolean)
    .join(' · ')
}

const Card = ({
  arranging,
  day,
  onTake,
}: {
  arranging: Arranging
  day: DayOfOpenings
  onTake: (opening: Opening) => void
}) => {
  const { members, zone, chosen, names } = arranging
  const all = [day.best, ...day.others]
  const isHere = (each: Opening) => chosen !== null && chosen.start >= each.from && chosen.start <= each.to
  // The card shows the alternative that one has chosen; the best otherwise.
  const opening = all.find(isHere) ?? day.best
  const here = isHere(opening)
  const known = members.filter((member) => member.time.known).length
  const place = placesOfOpening(arranging, opening)
  const reasons = partsWords(opening, names)
  const unknown = members.length - known
  const missing = opening.parts.missing.length
  const count = unknown
    ? `${known - missing} free, ${unknown} unknown`
    : missing
      ? `${known - missing} of ${known} free`
      : `all ${known} free`
  const others = all.filter((each) => each !== opening).slice(0, MOST_ALTERNATIVES)
  return (
    <li
      className={`flex h-full w-[212px] shrink-0 flex-col rounded-lg border-2 bg-ground hover:bg-shade ${here ? 'border-gentian' : 'border-transparent'}`}
    >
      <button
        type="button"
        onClick={() => onTake(opening)}
        aria-current={here || undefined}
        title={scoreLines(opening, names).join('\n')}
        className="flex w-full flex-1 flex-col rounded-lg px-2.5 pt-1 text-left leading-snug"
      >
        <span className="flex w-full items-baseline justify-between gap-2">
          <b className="whitespace-nowrap text-[14.5px]">{shortTime(opening.start, zone)}</b>
          <span className="truncate text-[12.5px]" title={place.words}>
            {place.short}
          </span>
        </span>
        <span className="w-full truncate text-sm">{count}</span>
        <span className="w-full truncate text-[12.5px] text-soft">
          {reasons.length ? reasons.join(', ') : 'inside everybody’s hours'}
        </span>
      </button>
      {others.length > 0 && (
        <span className="flex gap-1 px-2 pb-1 text-[12.5px]">
          <span className="self-center text-soft">or</span>
          {others.map((other) => (
            <button
              key={other.from}
              type="button"
              className="min-h-[25px] rounded px-1 underline decoration-soft/60 underline-offset-2 hover:bg-paper"
              title={scoreLines(other, names).join('\n')}
              onClick={() => onTake(other)}
            >
              {clockText(minuteOf(toWall(zone, other.start)))}
            </button>
          ))}
        </span>
      )}
    </li>
  )
}

/** The places of an opening: those it was matched with, else a room that is free then. */
const placesOfOpening = (arranging: Arranging, opening: Opening): { short: string; words: string } => {
  const matched = opening.parts.places
  if (matched) {
    const found = matched.places.flatMap((id) => arranging.placesById.get(id ?? '')?.name ?? [])
    const lacking = matched.lacking ? `, ${matched.lacking} missing` : ''
    return {
      short: `${found.join(' + ')}${lacking}`,
      words: `The places that fit best: ${listed(found)}${lacking}`,
    }
  }
  const place = arranging.roomsAt(opening)[0]
  return place
    ? { short: place.name, words: `${place.name} is free` }
    : { short: 'no room', words: 'No room that seats you is free' }
}

/** What is still missing before it can be sent; empty when nothing is. */
export const stillMissing = (arranging: Arranging, title: string): string[] => [
  ...(arranging.alone ? ['people'] : []),
  ...(arranging.chosen ? [] : ['a time']),
  ...(title.trim() ? [] : ['a title']),
]

const EveryZone = ({ arranging }: { arranging: Arranging }) => {
  const { chosen, zone, now, me, members } = arranging
  if (!chosen) return null
  const others = [
    ...new Set(
      members
        .filter((member) => member.person && member.time.zone !== me.zone)
        .map((member) => member.time.zone),
    ),
  ]
  return (
    <p className="min-w-0 leading-snug">
      <b>{spanInWords(chosen.start, chosen.end, zone, now)}</b>
      {others.map((name) => {
        const table = zoneTable(name)
        const day = dayOf(toWall(table, chosen.start))
        const site = members.find((member) => member.time.zone === name)?.siteName
        return (
          <span key={name} className="whitespace-nowrap text-soft text-sm">
            {' · '}
            {site} {day === dayOf(toWall(zone, chosen.start)) ? '' : `${shortDay(day)} `}
            {clocksInWords(chosen.start, chosen.end, table)}
          </span>
        )
      })}
    </p>
  )
}

const Places = ({
  arranging,
  onTogglePlace,
}: {
  arranging: Arranging
  onTogglePlace: (id: string) => void
}) => {
  const { brief } = useBrief()
  const { chosen } = arranging
  const [all, setAll] = useState(false)
  if (!chosen) return null
  const free = arranging.roomsAt(chosen)
  const lost = arranging.placeReasons.filter((reason) => !reason.free)
  const offered = free
    .filter((place) => all || brief.places.includes(place.id))
    .concat(all ? [] : free.filter((place) => !brief.places.includes(place.id)).slice(0, MOST_PLACES))
  const rest = free.length - offered.length
  return (
    <fieldset aria-label="Places free then" className="flex flex-wrap items-center gap-1.5 text-sm">
      <span className="text-soft">{free.length ? 'Free then:' : 'No room that seats you is free then.'}</span>
      {lost.map(({ place }) => (
        <button
          key={place.id}
          type="button"
          onClick={() => onTogglePlace(place.id)}
          className="flex items-center gap-1 rounded-full border border-coral px-2.5 py-0.5 font-semibold text-coral"
        >
          <TriangleAlert size={13} aria-hidden /> {place.name} is not free then: let it go
        </button>
      ))}
      {offered.map((place) => {
        const on = brief.places.includes(place.id)
        const elsewhere =
          place.siteId === arranging.me.siteId
            ? ''
            : `, ${place.resource.zone.split('/').pop()?.replace(/_/g, ' ')}`
        return (
          <button
            key={place.id}
            type="button"
            aria-pressed={on}
            onClick={() => onTogglePlace(place.id)}
            className={`flex items-center gap-1 rounded-full border px-2.5 py-0.5 ${on ? 'border-gentian bg-gentian/12 font-semibold' : 'border-soft/50 hover:bg-shade'}`}
          >
            {on && <Check size={13} aria-hidden />}
            {place.name}{' '}
            <span className={on ? '' : 'text-soft'}>
              {place.seats} seats{elsewhere}
            </span>
          </button>
        )
      })}
      {rest > 0 && (
        <button
          type="button"
          className="rounded px-1.5 underline underline-offset-2"
          onClick={() => setAll(true)}
        >
          and {rest} more
        </button>
      )}
    </fieldset>
  )
}

/** When there is no opening: who or what is in the way, and what little change would help. */
const NoOpening = ({ arranging, onHelp }: { arranging: Arranging; onHelp: (help: Help) => void }) => {
  const { why, help, searching, names, brief } = arranging
  const busy = searching.share < 1
  return (
    <div className="flex flex-col gap-1.5 py-1 text-sm">
      <p>
        <b>No time suits everybody.</b> {why ? whyWords(why, names) : ''}
      </p>
      <fieldset aria-label="What would help" className="flex flex-wrap items-center gap-1.5">
        <span className="text-soft">
          {help.length
            ? 'What would help:'
            : busy
              ? 'Trying what would help…'
              : 'No small change helps. Widen the window or take somebody out.'}
        </span>
        {help.map((each) => (
          <button
            key={JSON.stringify(each.changes)}
            type="button"
            onClick={() => onHelp(each)}
            className="rounded-full border border-gentian/60 px-2.5 py-0.5 text-left hover:bg-gentian/12"
          >
            {helpWords(each, names)}{' '}
            <b className="whitespace-nowrap">
              {each.openings} {each.openings === 1 ? 'opening' : 'openings'}
              {each.second === undefined ? '' : ` and ${each.second}`}
            </b>
          </button>
        ))}
        {busy && (
          <>
            <progress
              className="w-24 accent-gentian"
              aria-label="How much was tried"
              value={searching.share}
            />
            <button
              type="button"
              className="rounded px-1.5 underline underline-offset-2"
              onClick={searching.stop}
            >
              Stop
            </button>
          </>
        )}
        {searching.stopped && <span className="text-soft">Stopped: not everything was tried.</span>}
      </fieldset>
      {brief.minutes > 0 && arranging.found.unknown.length > 0 && <Unknown arranging={arranging} />}
    </div>
  )
}

/** People whose time nobody can see, counted apart, with what to do about them. */
const Unknown = ({ arranging }: { arranging: Arranging }) => {
  const { found, names, zone } = arranging
  if (found.unknown.length === 0) return null
  const times = openingsByDay(found.openings, arranging.me.zone, 3).map(({ best }) =>
    shortTime(best.start, zone),
  )
  const who = listed(found.unknown.map(names.person))
  const ask = async () => {
    const text = `When could you come? ${times.join('; ')} (${arranging.me.zone.split('/').pop()?.replace(/_/g, ' ')} time)`
    await navigator.clipboard.writeText(text).then(
      () => toast.success('The best times are copied, to paste into a message.'),
      () => toast.error('The browser does not allow copying here.'),
    )
  }
  return (
    <p className="flex flex-wrap items-center gap-2 text-[12.5px] text-soft">
      The time of {who} is unknown and not counted as free.
      {times.length > 0 && (
        <button
          type="button"
          className="min-h-[25px] rounded px-1 underline underline-offset-2"
          onClick={ask}
        >
          Copy the best times to ask them
        </button>
      )}
    </p>
  )
}

const Cards = ({
  arranging,
  onTake,
  onHelp,
}: {
  arranging: Arranging
  onTake: (opening: Opening) => void
  onHelp: (help: Help) => void
}) => {
  const { found, me, alone, settled, refused, searching } = arranging
  if (alone)
    return <p className="py-2 text-soft text-sm">The openings will stand here as cards, best first.</p>
  if (refused) return <p className="py-2 text-sm">{refused}</p>
  if (!settled || !searching.answer)
    return <p className="animate-pulse py-2 text-soft text-sm">Looking for openings…</p>
  const days = openingsByDay(found.openings, me.zone, MOST_CARDS)
  if (days.length === 0) return <NoOpening arranging={arranging} onHelp={onHelp} />
  return (
    <>
      <ul
        aria-label="Openings, best first"
        className="-mx-1 flex items-stretch gap-1.5 overflow-x-auto px-1 pb-1"
      >
        {days.map((day) => (
          <Card key={day.best.from} arranging={arranging} day={day} onTake={onTake} />
        ))}
      </ul>
      <Unknown arranging={arranging} />
    </>
  )
}

/** How far openings may reach into people's own time, in words. */
const stretchWords = (stretch: number | null): string =>
  stretch === 0
    ? 'inside working hours'
    : stretch === null
      ? 'any hour'
      : `up to ${lengthInWords(stretch)} outside hours`

const STRETCHES = [0, 30, 60, 120, 240, null] as const

/** A count from 1 on, or none. */
const CountField = ({
  label,
  none,
  most,
  value,
  onCount,
}: {
  label: string
  none: string
  most: number
  value: number | null
  onCount: (count: number | null) => void
}) => (
  <label className="flex flex-col">
    {label}
    <input
      type="number"
      min={1}
      max={most}
      className="w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1"
      value={value ?? ''}
      placeholder={none}
      onChange={(event) =>
        onCount(
          event.target.value === ''
            ? null
            : Math.max(1, Math.min(most, Math.round(event.target.valueAsNumber))),
        )
      }
    />
  </label>
)

const RulesChip = () => {
  const { brief, change } = useBrief()
  const { rules } = brief
  const set = (next: Partial<Brief['rules']>) => change({ rules: { ...rules, ...next } })
  const field = 'w-full min-w-0 rounded-md border border-soft/50 bg-paper px-2 py-1'
  const hour = (name: 'earliest' | 'latest', label: string) => (
    <label className="flex flex-col">
      {label}
      <select
        className={field}
        value={rules[name] ?? ''}
        onChange={(event) => set({ [name]: event.target.value === '' ? null : Number(event.target.value) })}
      >
        <option value="">none</option>
        {Array.from({ length: 23 }, (_, i) => (i + 1) * 60).map((minute) => (
          <option key={minute} value={minute}>
            {clockText(minute)}
          </option>
        ))}
      </select>
    </label>
  )
  const number = (name: 'before' | 'after' | 'notice', label: string, most: number) => (
    <label className="flex flex-col">
      {label}
      <input
        type="number"
        min={0}
        max={most}
        step={5}
        className={field}
        value={rules[name]}
        onChange={(event) =>
          set({ [name]: Math.max(0, Math.min(most, Math.round(event.target.valueAsNumber || 0))) })
        }
      />
    </label>
  )
  return (
    <Chip label="Rules" words={stretchWords(rules.stretch)}>
      <div className="flex max-h-[60dvh] flex-col gap-2 overflow-y-auto text-sm">
        <fieldset className="flex flex-wrap gap-1.5">
          <legend className="mb-1 font-semibold">How far outside their hours</legend>
          {STRETCHES.map((stretch) => (
            <Button
              key={String(stretch)}
              aria-pressed={rules.stretch === stretch}
              className={rules.stretch === stretch ? 'border-gentian font-semibold' : ''}
              onClick={() => set({ stretch })}
            >
              {stretch === 0 ? 'Not at all' : stretch === null ? 'Any hour' : lengthInWords(stretch)}
            </Button>
          ))}
        </fieldset>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={rules.lunch}
            onChange={(event) => set({ lunch: event.target.checked })}
          />
          Keep lunch breaks
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={rules.tentative}
            onChange={(event) => set({ tentative: event.target.checked })}
          />
          Tentative and held time may be used
        </label>
        <fieldset className="flex flex-wrap gap-x-3 gap-y-1">
          <legend className="mb-1 font-semibold">Weekdays</legend>
          {WEEKDAYS.map((name, i) => (
            <label key={name} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={rules.weekdays.includes(i + 1)}
                onChange={(event) =>
                  set({
                    weekdays: event.target.checked
                      ? [...rules.weekdays, i + 1].sort()
                      : rules.weekdays.filter((each) => each !== i + 1),
                  })
                }
              />
              {name.slice(0, 3)}
            </label>
          ))}
        </fieldset>
        <div className="grid grid-cols-2 gap-2">
          {hour('earliest', 'Not before, for anyone')}
          {hour('latest', 'Not after, for anyone')}
          {number('before', 'Minutes free before', 240)}
          {number('after', 'Minutes free after', 240)}
          {number('notice', 'Minutes of notice', 20_160)}
          <CountField
            label="Most a day for each"
            none="no limit"
            most={20}
            value={rules.mostADay}
            onCount={(mostADay) => set({ mostADay })}
          />
          <label className="flex flex-col">
            Starts every
            <select
              className={field}
              value={brief.step}
              onChange={(event) => change({ step: Number(event.target.value) })}
            >
              {STEPS.map((step) => (
                <option key={step} value={step}>
                  {lengthInWords(step)}
                </option>
              ))}
            </select>
          </label>
        </div>
      </div>
    </Chip>
  )
}

const EACH_SITE = 'each'

/** What kind of place the meeting needs, so that it is part of the search. */
const NeedsChip = ({ arranging }: { arranging: Arranging }) => {
  const { brief, change } = useBrief()
  const { names, sites } = arranging
  const [need] = brief.needs
  const set = (next: Partial<Brief['needs'][number]> | null) =>
    change({ needs: next === null ? [] : [{ ...A_ROOM, ...need, ...next }] })
  const words = !need
    ? 'any place'
    : `${need.count > 1 ? `${need.count} ${need.kind}s` : `a ${need.kind}`} ${need.siteId ? `in ${names.site(need.siteId)}` : 'on each site'}`
  const field = 'w-full rounded-md border border-soft/50 bg-paper px-2 py-1'
  return (
    <Chip label="Places needed" words={words}>
      <div className="flex flex-col gap-2 text-sm">
        <div className="flex flex-wrap gap-1.5">
          <Button aria-pressed={!need} onClick={() => set(null)}>
            None in particular
          </Button>
          <Button aria-pressed={need?.siteId === null} onClick={() => set({ siteId: null, kind: 'room' })}>
            A room on each site
          </Button>
        </div>
        {need && (
          <>
            <label className="flex flex-col">
              Where
              <select
                className={field}
                value={need.siteId ?? EACH_SITE}
                onChange={(event) =>
                  set({ siteId: event.target.value === EACH_SITE ? null : event.target.value })
                }
              >
                <option value={EACH_SITE}>each site where enough of you are</option>
                {sites.map((site) => (
                  <option key={site.id} value={site.id}>
                    {site.name}
                  </option>
                ))}
              </select>
            </label>
            <div className="grid grid-cols-2 gap-2">
              {need.siteId === null && (
                <label className="flex flex-col">
                  From how many people
                  <input
                    type="number"
                    min={1}
                    max={50}
                    className={field}
                    value={need.least}
                    onChange={(event) => set({ least: Math.max(1, event.target.valueAsNumber || 1) })}
                  />
                </label>
              )}
              <CountField
                label="Seats"
                none="as many as come"
                most={500}
                value={need.seats}
                onCount={(seats) => set({ seats })}
              />
            </div>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={brief.placesMust}
                onChange={(event) => change({ placesMust: event.target.checked })}
              />
              Only times when they can be had
            </label>
          </>
        )}
      </div>
    </Chip>
  )
}

const A_ROOM: Brief['needs'][number] = {
  kind: 'room',
  siteId: null,
  least: 1,
  count: 1,
  seats: null,
  features: {},
}

/** Holding the chosen time while one decides. */
const HoldButton = ({ arranging, hold }: { arranging: Arranging; hold: HoldInHand }) => {
  if (!arranging.chosen) return null
  const until = hold.until === null ? null : clockText(minuteOf(toWall(arranging.zone, hold.until)))
  if (until && hold.here)
    return (
      <Button onClick={hold.release} title="Let it go (h)">
        Held until {until}: let go
      </Button>
    )
  return (
    <Button onClick={hold.keep} disabled={hold.taking} title="Keep my time and the places for 15 minutes (h)">
      {hold.taking ? 'Taking…' : until ? 'Hold this time instead' : 'Hold for 15 min'}
    </Button>
  )
}

/** The brief in hand along the bottom: what it needs, what is chosen, what is missing; from here one sends. */
export const Tray = ({
  arranging,
  members,
  said,
  onTake,
  onTogglePlace,
  onSend,
  onRepeat,
  onCompare,
  onJump,
  jumps,
  onJumps,
  onHelp,
  hold,
}: {
  arranging: Arranging
  members: readonly Member[]
  said: string
  onTake: (opening: Opening) => void
  onTogglePlace: (id: string) => void
  onSend: () => void
  onRepeat: () => void
  onCompare: () => void
  onJump: (way: 1 | -1, by?: 'opening' | 'day') => void
  jumps: Jumps
  onJumps: (jumps: Jumps) => void
  onHelp: (help: Help) => void
  hold: HoldInHand
}) => {
  const { brief, change, clear, untouched } = useBrief()
  const [open, setOpen] = useState(() => window.innerWidth >= 720)
  const ref = useTrayHeight()
  const missing = stillMissing(arranging, brief.title)
  const invited = members.length - 1
  return (
    <section
      ref={ref}
      aria-label="The brief in hand"
      className="z-10 shrink-0 border-line border-t bg-paper px-4 pt-2 pb-2 max-md:max-h-[62dvh] max-md:overflow-y-auto max-md:rounded-t-xl max-md:px-3"
    >
      <div className="flex flex-wrap items-center gap-2">
        <input
          aria-label="Title"
          placeholder="What is it about?"
          value={brief.title}
          maxLength={200}
          onChange={(event) => change({ title: event.target.value })}
          className="min-w-40 max-w-sm flex-1 rounded-md border border-soft/40 bg-transparent px-2 py-0.5 font-semibold text-[17px]"
        />
        <LengthChip />
        <span className={`whitespace-nowrap text-sm text-soft ${open ? '' : 'max-md:hidden'}`}>
          {peopleWords(members)}
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <WindowChip today={arranging.today} />
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <RulesChip />
        </span>
        <span className={open ? '' : 'max-md:hidden'}>
          <NeedsChip arranging={arranging} />
        </span>
        {!untouched && (
          <button
            type="button"
            className="rounded px-1.5 text-soft text-sm underline underline-offset-2 hover:text-ink max-md:hidden"
            onClick={clear}
          >
            Start over
          </button>
        )}
        <span className="ml-auto flex items-center gap-2">
          {missing.length > 0 && (
            <span className="whitespace-nowrap text-sm text-soft">Still missing: {missing.join(', ')}</span>
          )}
          {!arranging.alone && (
            <Button onClick={onRepeat} title="Make it a series (r)">
              Series…
            </Button>
          )}
          <HoldButton arranging={arranging} hold={hold} />
          <Button tone="primary" disabled={missing.length > 0} onClick={onSend} className="px-4 py-1.5">
            {invited > 0 ? `Send ${invited} ${invited === 1 ? 'invitation' : 'invitations'}…` : 'Send…'}
          </Button>
          <button
            type="button"
            className="rounded p-1 md:hidden"
            aria-expanded={open}
            aria-label="The whole brief"
            onClick={() => setOpen(!open)}
          >
            {open ? <ChevronDown size={18} aria-hidden /> : <ChevronUp size={18} aria-hidden />}
          </button>
        </span>
      </div>
      <div>
        <div className="flex min-h-[28px] flex-col gap-1.5 py-1.5">
          <EveryZone arranging={arranging} />
          <div className={open ? 'contents' : 'max-md:hidden'}>
            <Places arranging={arranging} onTogglePlace={onTogglePlace} />
          </div>
        </div>
        <div className="flex min-h-[70px] items-stretch gap-2">
          {!arranging.alone && arranging.found.openings.length > 0 && (
            <div className="flex flex-col justify-center gap-1 max-md:hidden">
              <button
                type="button"
                className="rounded border border-soft/40 p-1 hover:bg-shade"
                aria-label="Next opening (n)"
                title="Next opening (n)"
                onClick={() => onJump(1)}
              >
                <ChevronRight size={16} aria-hidden />
              </button>
              <button
                type="button"
                className="rounded border border-soft/40 p-1 hover:bg-shade"
                aria-label="Previous opening (p)"
                title="Previous opening (p)"
                onClick={() => onJump(-1)}
              >
                <ChevronLeft size={16} aria-hidden />
              </button>
            </div>
          )}
          <div className="min-w-0 flex-1">
            <Cards arranging={arranging} onTake={onTake} onHelp={onHelp} />
          </div>
        </div>
        {!arranging.alone && arranging.found.openings.length > 0 && (
          <fieldset className="flex flex-wrap items-center gap-x-4 text-[12.5px] text-soft max-md:hidden">
            <button
              type="button"
              className="min-h-[25px] rounded px-1 text-ink underline underline-offset-2"
              title="Compare times side by side (c)"
              onClick={onCompare}
            >
              Compare them side by side
            </button>
            <span>n and p jump between openings, d and b between days;</span>
            <label className="flex min-h-[25px] items-center gap-1.5">
              <input
                type="checkbox"
                checked={jumps.optional}
                onChange={(event) => onJumps({ ...jumps, optional: event.target.checked })}
              />
              only where the optional are free too
            </label>
            <label className="flex min-h-[25px] items-center gap-1.5">
              <input
                type="checkbox"
                checked={jumps.places}
                onChange={(event) => onJumps({ ...jumps, places: event.target.checked })}
              />
              only where the places can be had
            </label>
          </fieldset>
        )}
        {said && <p className="text-sm">{said}</p>}
      </div>
    </section>
  )
}
