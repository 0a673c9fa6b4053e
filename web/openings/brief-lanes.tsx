import { type During, duringInWords } from '@marmot/core/availability'
import { instantOf, offsetAt, offsetInWords, wallOf, zoneTable } from '@marmot/core/time'
import { X } from 'lucide-react'
import { type ReactNode, useMemo } from 'react'
import { type Axis, instantAxis } from '../lanes/axis.ts'
import type { Lens } from '../lanes/lens.ts'
import type { BoardGroup, BoardRow, Light } from '../lanes/types.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { flowerOf } from '../ui/parts.tsx'
import type { Arranging, Member } from './use-arranging.ts'

/** What the lanes' own buttons do. */
export interface LaneActions {
  readonly toggleRequired: (id: string) => void
  readonly takeOut: (id: string) => void
  /** Leaves somebody out of the search for a moment, or takes them in again. */
  readonly toggleOut: (id: string) => void
  readonly dropPlace: (id: string) => void
}

const GUESTS = 'guests'

/** Who is searched for: without the tick a lane stays, faded, and its person is left out for a moment. */
const Tick = ({ member, onToggle }: { member: Member; onToggle: () => void }) => (
  <label className="grid size-6 shrink-0 place-items-center md:-ml-4.5">
    <input
      type="checkbox"
      className="size-3.5"
      checked={!member.out}
      onChange={onToggle}
      aria-label={`Search for ${member.name} too`}
      title={member.out ? 'Left out for a moment: take in again (x)' : 'Leave out for a moment (x)'}
    />
  </label>
)

const Label = ({
  mark,
  name,
  note,
  words,
  troubled,
  onOut,
  outWords,
}: {
  mark: ReactNode
  name: string
  note?: string
  words: string
  troubled: boolean
  onOut?: () => void
  outWords?: string
}) => (
  <div className="group/label relative flex items-center gap-1.5 leading-[1.15]">
    {mark}
    <div className="min-w-0 flex-1 md:in-data-compact:flex md:in-data-compact:items-baseline md:in-data-compact:gap-1.5">
      <div className="flex min-w-0 shrink-0 items-baseline gap-1.5">
        <span className="truncate font-semibold text-[14px]" title={name}>
          {name}
        </span>
        {note && <span className="text-soft text-xs">{note}</span>}
      </div>
      <div
        className={`truncate text-[12.5px] ${troubled ? 'font-semibold text-coral' : 'text-soft'}`}
        title={words}
      >
        {troubled && '⚠ '}
        {words}
      </div>
    </div>
    {onOut && (
      <button
        type="button"
        aria-label={outWords}
        onClick={onOut}
        className="grid size-6 place-items-center rounded bg-ground text-soft hover:bg-shade hover:text-ink md:absolute md:right-0 md:opacity-0 [@media(hover:none)]:opacity-100 md:focus-visible:opacity-100 md:group-hover/label:opacity-100"
      >
        <X size={14} aria-hidden />
      </button>
    )}
  </div>
)

const RequiredMark = ({
  member,
  isMe,
  onToggle,
}: {
  member: Member
  isMe: boolean
  onToggle: () => void
}) => (
  <button
    type="button"
    disabled={isMe}
    onClick={onToggle}
    title={member.required ? 'Required. Press to make optional.' : 'Optional. Press to make required.'}
    aria-label={`${member.name} is ${member.required ? 'required' : 'optional'}${isMe ? '' : ': change'}`}
    className="grid size-6 shrink-0 place-items-center rounded-full"
  >
    <i
      className="block size-3 rounded-full border-2"
      style={{
        borderColor: flowerOf(member.id),
        background: member.required ? flowerOf(member.id) : 'transparent',
      }}
    />
  </button>
)

/** What a person's lane says of them: how they stand at the chosen time, or who they are while none is chosen. */
const memberWords = (member: Member, how: During | undefined): string => {
  if (member.pending) return 'fetching…'
  if (!member.person) return 'guest: time unknown'
  if (!member.time.known) return 'unknown: shares nothing'
  return how ? duringInWords(how, zoneTable(member.time.zone)) : member.person.role
}

const roleOf = (member: Member, { brief }: Arranging): string | undefined =>
  member.group
    ? brief.groups.find((group) => group.id === member.group)?.name
    : member.required
      ? undefined
      : 'optional'

const memberRow = (member: Member, arranging: Arranging, axis: Axis, actions: LaneActions): BoardRow => {
  const how = arranging.reasons.find((reason) => reason.id === member.id)?.how
  const isMe = member.id === arranging.me.id
  return {
    id: member.id,
    name: `${member.name}, ${member.siteName || 'guest'}${member.required ? '' : ', optional'}`,
    time: member.time,
    axis,
    faded: member.pending || member.out,
    label: (
      <Label
        mark={
          <>
            {isMe ? (
              <span className="w-6 shrink-0 md:-ml-4.5" />
            ) : (
              <Tick member={member} onToggle={() => actions.toggleOut(member.id)} />
            )}
            <RequiredMark member={member} isMe={isMe} onToggle={() => actions.toggleRequired(member.id)} />
          </>
        }
        name={member.name}
        note={isMe ? 'you' : roleOf(member, arranging)}
        words={member.out ? 'left out for a moment' : memberWords(member, how)}
        troubled={!member.out && how !== undefined && !['free', 'stretch', 'unknown'].includes(how.state)}
        {...(isMe ? {} : { onOut: () => actions.takeOut(member.id), outWords: `Take ${member.name} out` })}
      />
    ),
  }
}

const placeRow = (place: PlaceLane, arranging: Arranging, axis: Axis, actions: LaneActions): BoardRow => {
  const particular = arranging.brief.places.includes(place.id)
  const reason = arranging.placeReasons.find((each) => each.place.id === place.id)
  const free = reason === undefined || reason.free
  const words = free
    ? `${reason ? 'free, ' : ''}${place.seats} seats`
    : duringInWords(reason.how, zoneTable(place.time.zone))
  return {
    id: place.id,
    name: place.name,
    time: place.time,
    axis,
    label: (
      <Label
        mark={<i className="mx-1.5 size-3 shrink-0 border-2 border-soft" />}
        name={place.name}
        words={words.replace(/^busy/, 'taken')}
        troubled={!free}
        {...(particular
          ? { onOut: () => actions.dropPlace(place.id), outWords: `Let ${place.name} go` }
          : { note: 'matched' })}
      />
    ),
  }
}

/** Lanes grouped by zone: mine first, then as people were added; guests, whose time nobody knows, and places last. */
export const useBriefLanes = (arranging: Arranging, lens: Lens, actions: LaneActions): BoardGroup[] => {
  const { zone, members, me, chosen, now, chosenPlaces } = arranging
  const axis = useMemo(
    () => instantAxis(instantOf(zone, wallOf(lens.first)), instantOf(zone, wallOf(lens.first + lens.days))),
    [zone, lens.first, lens.days],
  )
  const keyOf = (member: Member) => (member.person ? member.time.zone : GUESTS)
  const zones = [...new Set([me.zone, ...members.map(keyOf)])].filter((key) => key !== GUESTS)
  const byZone = zones.map((key): BoardGroup => {
    const inside = members.filter((member) => keyOf(member) === key)
    const table = zoneTable(key)
    const sites = [...new Set(inside.map((member) => member.siteName).filter(Boolean))].join(', ')
    const offset = offsetInWords(offsetAt(table, chosen?.start ?? Math.max(now, axis.from)))
    return {
      id: key,
      zone: table,
      axis,
      title: (
        <>
          <b>{sites}</b> <span className="text-soft">{offset}</span>
        </>
      ),
      rows: inside.map((member) => memberRow(member, arranging, axis, actions)),
    }
  })
  const guests = members.filter((member) => keyOf(member) === GUESTS)
  const others: BoardGroup[] = [
    {
      id: GUESTS,
      zone,
      axis,
      title: <b>Guests</b>,
      rows: guests.map((member) => memberRow(member, arranging, axis, actions)),
    },
    {
      id: 'places',
      zone,
      axis,
      title: <b>Places</b>,
      rows: chosenPlaces.map((place) => placeRow(place, arranging, axis, actions)),
    },
  ]
  return [...byZone, ...others].filter((group) => group.rows.length > 0)
}

/** The openings as light: full where everybody whose time is known can come, paler with the count where fewer can. */
export const lightsOf = ({ asked, found }: Arranging): Light[] => {
  const known = asked.filter((member) => member.time.known).length
  return found.bands.map(({ start, end, missing }) => ({
    start,
    end,
    strength: missing > 0 ? 0.45 : 1,
    words:
      missing > 0 ? `${known - missing} of ${known}` : `all ${known}${found.unknown.length ? ' known' : ''}`,
  }))
}
