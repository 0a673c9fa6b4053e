import { bestOfEachDay, type Opening } from '@marmot/core/openings'
import {
  clocksInWords,
  dayOf,
  dayText,
  lengthInWords,
  parseLength,
  shortDay,
  shortTime,
  spanInWords,
  toWall,
  wallFromText,
  zoneTable,
} from '@marmot/core/time'
import { Check, ChevronDown, ChevronLeft, ChevronRight, ChevronUp, TriangleAlert } from 'lucide-react'
import { Popover } from 'radix-ui'
import { type ReactNode, useState } from 'react'
import { Button } from '../ui/parts.tsx'
import { useBrief } from './brief.tsx'
import { type Arranging, type Member, openingReasons } from './use-arranging.ts'

const LENGTHS = [15, 30, 45, 60, 90, 120]
const WINDOWS = [7, 14, 28, 42]
const MOST_CARDS = 12
const MOST_PLACES = 6

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
  opening,
  onTake,
}: {
  arranging: Arranging
  opening: Opening
  onTake: (opening: Opening) => void
}) => {
  const { members, zone, chosen } = arranging
  const here = chosen !== null && chosen.start >= opening.from && chosen.start <= opening.to
  const known = members.filter((member) => member.time.known).length
  const place = arranging.roomsAt(opening)[0]
  const reasons = openingReasons(members, opening)
  const unknown = members.length - known
  const count = unknown
    ? `${known - opening.missing} free, ${unknown} unknown`
    : opening.missing
      ? `${known - opening.missing} of ${known} free`
      : `all ${known} free`
  return (
    <li>
      <button
        type="button"
        onClick={() => onTake(opening)}
        aria-current={here || undefined}
        className={`flex h-full w-[196px] flex-col rounded-lg border-2 bg-ground px-2.5 py-1 text-left leading-snug hover:bg-shade ${here ? 'border-gentian' : 'border-transparent'}`}
      >
        <span className="flex w-full items-baseline justify-between gap-2">
          <b className="whitespace-nowrap text-[14.5px]">{shortTime(opening.start, zone)}</b>
          <span
            className="truncate text-[12.5px]"
            title={place ? `${place.name} is free` : 'No room that seats you is free'}
          >
            {place ? place.name : 'no room'}
          </span>
        </span>
        <span className="truncate text-sm">{count}</span>
        <span className="truncate text-[12.5px] text-soft" title={reasons.join(', ')}>
          {reasons.length ? reasons.join(', ') : 'inside everybody’s hours'}
        </span>
      </button>
    </li>
  )
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

const Cards = ({ arranging, onTake }: { arranging: Arranging; onTake: (opening: Opening) => void }) => {
  const { found, me, alone, settled, refused, members } = arranging
  if (alone)
    return <p className="py-2 text-soft text-sm">The openings will stand here as cards, best first.</p>
  if (refused) return <p className="text-soft text-sm">{refused}</p>
  if (!settled) return <p className="animate-pulse py-2 text-soft text-sm">Looking for openings…</p>
  const best = bestOfEachDay(found.openings, me.zone, MOST_CARDS)
  const unknown = members.filter((member) => found.unknown.includes(member.id)).map((member) => member.name)
  if (best.length === 0)
    return (
      <p className="py-2 text-sm">
        No time in this window suits all who are required. Widen the window, shorten the meeting, or make
        somebody optional (o in their lane).
      </p>
    )
  return (
    <>
      <ul aria-label="Openings, best first" className="-mx-1 flex gap-1.5 overflow-x-auto px-1 pb-1">
        {best.map((opening) => (
          <Card key={opening.from} arranging={arranging} opening={opening} onTake={onTake} />
        ))}
      </ul>
      {unknown.length > 0 && <p className="sr-only">Unknown, so not counted as free: {unknown.join(', ')}</p>}
    </>
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
  onJump,
}: {
  arranging: Arranging
  members: readonly Member[]
  said: string
  onTake: (opening: Opening) => void
  onTogglePlace: (id: string) => void
  onSend: () => void
  onJump: (way: 1 | -1) => void
}) => {
  const { brief, change, clear, untouched } = useBrief()
  const [open, setOpen] = useState(() => window.innerWidth >= 720)
  const missing = stillMissing(arranging, brief.title)
  const invited = members.length - 1
  return (
    <section
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
            <Cards arranging={arranging} onTake={onTake} />
          </div>
        </div>
        {said && <p className="text-sm">{said}</p>}
      </div>
    </section>
  )
}
