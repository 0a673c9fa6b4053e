import type { Person } from '@marmot/contract/people'
import { duringInWords } from '@marmot/core/availability'
import { nextOpening, type Opening } from '@marmot/core/openings'
import {
  type Day,
  dayOf,
  instantOf,
  offsetAt,
  offsetInWords,
  toWall,
  wallOf,
  zoneTable,
} from '@marmot/core/time'
import { X } from 'lucide-react'
import { type KeyboardEvent, useMemo, useRef, useState } from 'react'
import { problemWords } from '../app/api.ts'
import { useKeys } from '../app/keys.tsx'
import { useMe } from '../app/session.tsx'
import { instantAxis } from '../lanes/axis.ts'
import { Board, type BoardGroup, type BoardRow, type Chosen, type Light } from '../lanes/board.tsx'
import { type Lens, Ribbon, ribbonStart } from '../lanes/ribbon.tsx'
import { laneHeight, useRoom } from '../lanes/room.ts'
import { PeopleSearch } from '../people/people-search.tsx'
import { Button, flowerOf, Loading, Trouble } from '../ui/parts.tsx'
import { useBrief, useBriefUndo } from './brief.tsx'
import { SendSheet } from './send-sheet.tsx'
import { Tray } from './tray.tsx'
import { type Arranging, type Member, useArranging } from './use-arranging.ts'

const LONGEST_LENS = 14
const MOST_LANE = 48

const MemberLabel = ({
  member,
  words,
  troubled,
  isMe,
  onToggle,
  onRemove,
}: {
  member: Member
  words: string
  troubled: boolean
  isMe: boolean
  onToggle: () => void
  onRemove: () => void
}) => (
  <div className="group/member flex items-center gap-1.5 leading-[1.15]">
    <button
      type="button"
      disabled={isMe}
      onClick={onToggle}
      title={member.required ? 'Required. Press to make optional.' : 'Optional. Press to make required.'}
      aria-label={`${member.name} is ${member.required ? 'required' : 'optional'}${isMe ? '' : ': change'}`}
      className="size-5 shrink-0 rounded-full p-1"
    >
      <i
        className="block size-3 rounded-full border-2"
        style={{
          borderColor: flowerOf(member.id),
          background: member.required ? flowerOf(member.id) : 'transparent',
        }}
      />
    </button>
    <div className="min-w-0 flex-1">
      <div className="flex items-baseline gap-1.5">
        <span className="truncate font-semibold text-[14px]" title={member.name}>
          {member.name}
        </span>
        {isMe && <span className="text-soft text-xs">you</span>}
        {!member.required && <span className="text-soft text-xs">optional</span>}
      </div>
      <div
        className={`truncate text-[12.5px] ${troubled ? 'font-semibold text-coral' : 'text-soft'}`}
        title={words}
      >
        {troubled && '⚠ '}
        {words}
      </div>
    </div>
    {!isMe && (
      <button
        type="button"
        aria-label={`Take ${member.name} out`}
        onClick={onRemove}
        className="rounded p-0.5 text-soft hover:bg-shade hover:text-ink md:opacity-0 md:focus-visible:opacity-100 md:group-hover/member:opacity-100"
      >
        <X size={14} aria-hidden />
      </button>
    )}
  </div>
)

const GUEST_ZONE = 'guests'

/** Lanes grouped by zone: mine first, then as people were added; guests, whose time nobody knows, come last. */
const useGroups = (
  arranging: Arranging,
  lens: Lens,
  onToggle: (id: string) => void,
  onRemove: (id: string) => void,
  onDropPlace: (id: string) => void,
) => {
  const { zone, members, me, reasons, placeReasons, chosen, now } = arranging
  const axis = useMemo(
    () => instantAxis(instantOf(zone, wallOf(lens.first)), instantOf(zone, wallOf(lens.first + lens.days))),
    [zone, lens.first, lens.days],
  )
  const keyOf = (member: Member) => (member.person ? member.time.zone : GUEST_ZONE)
  const keys = [
    ...new Set([me.zone, ...members.map(keyOf).filter((key) => key !== GUEST_ZONE), ...members.map(keyOf)]),
  ]
  const groups = keys.flatMap((key): BoardGroup[] => {
    const inside = members.filter((member) => keyOf(member) === key)
    if (inside.length === 0) return []
    const table = zoneTable(key === GUEST_ZONE ? me.zone : key)
    const sites = [...new Set(inside.map((member) => member.siteName).filter(Boolean))].join(', ')
    return [
      {
        id: key,
        zone: table,
        axis,
        title:
          key === GUEST_ZONE ? (
            <b>Guests</b>
          ) : (
            <>
              <b>{sites}</b>{' '}
              <span className="text-soft">
                {offsetInWords(offsetAt(table, chosen?.start ?? Math.max(now, axis.from)))}
              </span>
            </>
          ),
        rows: inside.map((member): BoardRow => {
          const how = reasons.find((reason) => reason.id === member.id)?.how
          const blocked = how !== undefined && !['free', 'stretch', 'unknown'].includes(how.state)
          const words = member.pending
            ? 'fetching…'
            : how
              ? duringInWords(how, table)
              : member.time.known
                ? member.person?.role || 'shares busy times'
                : member.person
                  ? 'shares no times'
                  : 'guest, time unknown'
          return {
            id: member.id,
            name: `${member.name}, ${member.siteName || 'guest'}${member.required ? '' : ', optional'}`,
            time: member.time,
            axis,
            faded: member.pending,
            edge: flowerOf(member.id),
            label: (
              <MemberLabel
                member={member}
                words={words}
                troubled={blocked}
                isMe={member.id === me.id}
                onToggle={() => onToggle(member.id)}
                onRemove={() => onRemove(member.id)}
              />
            ),
          }
        }),
      },
    ]
  })
  const places = arranging.chosenPlaces
  if (places.length)
    groups.push({
      id: 'places',
      zone: zoneTable(places[0]?.time.zone ?? me.zone),
      axis,
      title: <b>Places</b>,
      rows: places.map((place) => {
        const reason = placeReasons.find((each) => each.place.id === place.id)
        const troubled = reason !== undefined && !reason.free
        const table = zoneTable(place.time.zone)
        const words = reason
          ? reason.free
            ? `free, ${place.seats} seats`
            : duringInWords(reason.how, table).replace(/^busy/, 'taken')
          : `${place.seats} seats`
        return {
          id: place.id,
          name: place.name,
          time: place.time,
          axis,
          label: (
            <div className="group/member flex items-center gap-1.5 leading-[1.15]">
              <i className="mx-1 size-3 shrink-0 border-2 border-soft" />
              <div className="min-w-0 flex-1">
                <div className="truncate font-semibold text-[14px]">{place.name}</div>
                <div
                  className={`truncate text-[12.5px] ${troubled ? 'font-semibold text-coral' : 'text-soft'}`}
                >
                  {troubled && '⚠ '}
                  {words}
                </div>
              </div>
              <button
                type="button"
                aria-label={`Let ${place.name} go`}
                onClick={() => onDropPlace(place.id)}
                className="rounded p-0.5 text-soft hover:bg-shade hover:text-ink"
              >
                <X size={14} aria-hidden />
              </button>
            </div>
          ),
        }
      }),
    })
  return { groups, axis }
}

const lightsOf = (arranging: Arranging): Light[] => {
  const known = arranging.members.filter((member) => member.time.known).length
  return arranging.found.bands.map((band) => ({
    start: band.start,
    end: band.end,
    strength: band.missing > 0 ? 0.45 : 1,
    words:
      band.missing > 0
        ? `${known - band.missing} of ${known}`
        : arranging.found.unknown.length
          ? `all ${known} known`
          : `all ${known}`,
  }))
}

/** When can these people meet, and where? The lanes of all of them, the openings as light, and the brief below. */
export const Arrange = () => {
  const { brief, change } = useBrief()
  useBriefUndo()
  const search = useRef<HTMLInputElement>(null)
  const [sending, setSending] = useState(false)
  const [lens, setLens] = useState<Lens | null>(null)
  const [said, setSaid] = useState('')
  const me = useMe()
  const shown: Lens = lens ?? { first: dayOf(toWall(me.zone, brief.start ?? me.clock())), days: 1 }
  const [ribbonFirst, setRibbonFirst] = useState<Day>(() =>
    ribbonStart(shown, dayOf(toWall(me.zone, me.clock()))),
  )
  const arranging = useArranging(brief, ribbonFirst)
  const { zone, today, chosen, found, members, now } = arranging

  const look = (next: Lens) => {
    setLens(next)
    const inside = next.first >= ribbonFirst && next.first + next.days <= ribbonFirst + arranging.fill.length
    if (!inside) setRibbonFirst(ribbonStart(next, today))
  }
  const lookAt = (start: number) => {
    const day = dayOf(toWall(zone, start))
    if (day < shown.first || day >= shown.first + shown.days) look({ ...shown, first: day })
  }
  const choose = (next: Chosen | null) => {
    if (!next) {
      change({ start: null })
      return
    }
    const minutes = Math.round((next.end - next.start) / 60_000)
    change(minutes === brief.minutes ? { start: next.start } : { start: next.start, minutes })
    lookAt(next.start)
  }
  const take = (opening: Opening) => {
    change({ start: opening.start })
    lookAt(opening.start)
  }
  const jump = (way: 1 | -1) => {
    const next = nextOpening(found.openings, brief.start ?? now, way)
    if (next) take(next)
    setSaid(
      next
        ? ''
        : way === 1
          ? 'There is no later opening in the window.'
          : 'There is no earlier opening in the window.',
    )
  }
  const add = (people: readonly Person[]) => {
    const fresh = people.filter((person) => !brief.people.some((one) => one.id === person.id))
    if (fresh.length)
      change({ people: [...brief.people, ...fresh.map(({ id }) => ({ id, required: true }))] })
  }
  const toggle = (id: string) =>
    change({
      people: brief.people.map((one) => (one.id === id ? { ...one, required: !one.required } : one)),
      guests: brief.guests.map((one) => (one.address === id ? { ...one, required: !one.required } : one)),
    })
  const remove = (id: string) =>
    change({
      people: brief.people.filter((one) => one.id !== id),
      guests: brief.guests.filter((one) => one.address !== id),
    })
  const togglePlace = (id: string) =>
    change({
      places: brief.places.includes(id) ? brief.places.filter((each) => each !== id) : [...brief.places, id],
    })

  const zoom = (by: number) => look({ ...shown, days: Math.max(1, Math.min(LONGEST_LENS, shown.days + by)) })
  useKeys([
    { keys: 'n', does: 'Next opening', on: 'n', run: () => jump(1) },
    { keys: 'p', does: 'Previous opening', on: 'p', run: () => jump(-1) },
    { keys: '← →', does: 'Move the chosen time by a quarter of an hour (in the lanes)' },
    { keys: 'Shift ← →', does: 'Move its end (in the lanes)' },
    { keys: '↑ ↓', does: 'Go from lane to lane' },
    { keys: 'o', does: 'Make the person of this lane optional or required' },
    { keys: 'Delete', does: 'Take the person of this lane out' },
    { keys: '/', does: 'Add a person, a team or a guest', on: '/', run: () => search.current?.focus() },
    { keys: 't', does: 'Show today', on: 't', run: () => look({ ...shown, first: today }) },
    { keys: '+', does: 'Show more days', on: '+', run: () => zoom(1) },
    { keys: '-', does: 'Show fewer days', on: '-', run: () => zoom(-1) },
    { keys: 's', does: 'Look over and send', on: 's', run: () => setSending(true) },
    { keys: 'Escape', does: 'Let the chosen time go' },
  ])
  const rowKeys = (event: KeyboardEvent, row: BoardRow) => {
    if (event.target !== event.currentTarget || row.id === arranging.me.id) return
    if (event.key === 'o') toggle(row.id)
    else if (event.key === 'Delete') remove(row.id)
    else return
    event.preventDefault()
  }

  const { groups } = useGroups(arranging, shown, toggle, remove, togglePlace)
  const rows = groups.reduce((sum, group) => sum + group.rows.length, 0)
  const { ref, room } = useRoom(44)
  return (
    <>
      <h1 className="sr-only">Arrange a meeting</h1>
      <Ribbon
        start={ribbonFirst}
        today={today}
        lens={shown}
        fill={arranging.fill}
        meaning={arranging.alone ? 'taken' : 'open'}
        longest={LONGEST_LENS}
        onLens={look}
      />
      <div ref={ref} className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden">
        <div className="grid grid-cols-[var(--label)_1fr] items-center py-1.5 max-md:grid-cols-1 max-md:px-2.5">
          <div className="pr-3 pl-3.5 max-md:p-0">
            <PeopleSearch
              inputRef={search}
              taken={new Set(brief.people.map((one) => one.id))}
              onPeople={add}
              onGuest={(guest) => {
                if (!brief.guests.some((one) => one.address === guest.address))
                  change({ guests: [...brief.guests, { ...guest, required: true }] })
              }}
            />
          </div>
          <p className="truncate text-soft text-sm max-md:hidden">
            {arranging.alone
              ? 'Add the people who should meet; the hours that suit all of them light up.'
              : chosen === null
                ? 'Press a light band, a card below, or n for the next opening.'
                : 'Drag the frame, or press it and use the arrow keys. n and p go to the next and the previous opening.'}
          </p>
        </div>
        {arranging.error ? (
          <div className="px-4 py-2">
            <Trouble action={<Button onClick={() => arranging.retry()}>Try again</Button>}>
              {problemWords(arranging.error)}
            </Trouble>
          </div>
        ) : (
          <div style={{ '--lane': laneHeight(room, rows, groups.length, MOST_LANE) }}>
            <Board
              label="Everybody’s time"
              groups={groups}
              home={zone}
              now={now}
              step={arranging.step}
              minutes={brief.minutes}
              across="all"
              chosen={chosen ? { ...chosen, rowId: null } : null}
              lights={lightsOf(arranging)}
              days={shown.days > 1}
              onChoose={choose}
              onTake={() => undefined}
              rowKeys={rowKeys}
              empty={<Loading what="everybody’s time" />}
            />
          </div>
        )}
      </div>
      <p className="sr-only" role="status">
        {said}
      </p>
      <Tray
        arranging={arranging}
        members={members}
        said={said}
        onTake={take}
        onTogglePlace={togglePlace}
        onSend={() => setSending(true)}
        onJump={jump}
      />
      {sending && <SendSheet arranging={arranging} onClose={() => setSending(false)} />}
    </>
  )
}
