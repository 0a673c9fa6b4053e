import { type During, duringInWords, MOST_STRETCH } from '@marmot/core/availability'
import { instantOf, lengthInWords, offsetAt, offsetInWords, wallOf, zoneTable } from '@marmot/core/time'
import { type ReactNode, useMemo } from 'react'
import { type Axis, instantAxis } from '../lanes/axis.ts'
import type { Lens } from '../lanes/lens.ts'
import type { BoardGroup, BoardRow, Light } from '../lanes/types.ts'
import type { PlaceLane } from '../resources/resources.ts'
import { type Doing, LaneMenu } from '../ui/lane-menu.tsx'
import { tonesOf } from '../ui/parts.tsx'
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

/** Whose lane it is, right next to it: what is out of the ordinary, then the name, which yields first, and its mark. */
const Label = ({
  mark,
  name,
  note,
  words,
  troubled,
  doings,
}: {
  mark: ReactNode
  name: string
  note?: string | undefined
  words: string
  troubled: boolean
  doings: readonly Doing[]
}) => (
  <div className="flex items-center gap-1 leading-[1.15] md:-ml-3">
    {doings.length > 0 ? <LaneMenu name={name} doings={doings} /> : <span className="w-6 shrink-0" />}
    <div className="flex min-w-0 flex-1 items-center justify-end gap-x-1.5 not-in-data-compact:flex-wrap-reverse max-md:justify-start">
      <span
        className={`whitespace-nowrap text-[12.5px] max-md:order-last ${troubled ? 'font-semibold text-coral' : 'text-soft'}`}
      >
        {troubled && '⚠ '}
        {words}
      </span>
      <span className="min-w-8 truncate font-semibold text-[14px] in-data-compact:shrink" title={name}>
        {name}
      </span>
      {note && <span className="shrink-0 text-soft text-xs">{note}</span>}
    </div>
    {mark}
  </div>
)

/** A dot in somebody's own tone: full for who must come, open for who may. */
const Dot = ({ tone, required }: { tone: string; required: boolean }) => (
  <i
    aria-hidden
    className="block size-3 shrink-0 rounded-full border-2"
    style={{ borderColor: tone, background: required ? tone : 'transparent' }}
  />
)

/** What is out of the ordinary about somebody at the chosen time, as short as it can be said; mostly nothing. */
const memberWords = (member: Member, how: During | undefined): string => {
  if (member.out) return 'left out'
  if (member.pending) return 'fetching…'
  if (!member.person || !member.time.known) return 'unknown'
  if (!how || how.state === 'free') return ''
  if (how.state !== 'stretch') return duringInWords(how, zoneTable(member.time.zone))
  if (how.stretch >= MOST_STRETCH) return 'far outside hours'
  return [
    how.stretch > 0 ? `${lengthInWords(how.stretch)} outside` : '',
    how.lunch > 0 ? `${lengthInWords(how.lunch)} of lunch` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

const roleOf = (member: Member, { brief }: Arranging): string | undefined =>
  member.group
    ? brief.groups.find((group) => group.id === member.group)?.name
    : member.required
      ? undefined
      : 'optional'

const memberRow = (
  member: Member,
  tone: string,
  arranging: Arranging,
  axis: Axis,
  actions: LaneActions,
): BoardRow => {
  const how = arranging.reasons.find((reason) => reason.id === member.id)?.how
  const isMe = member.id === arranging.me.id
  const words = memberWords(member, how)
  return {
    id: member.id,
    name: `${member.name}, ${member.siteName || 'guest'}${member.required ? '' : ', optional'}`,
    time: member.time,
    axis,
    faded: member.pending || member.out,
    label: (
      <Label
        mark={<Dot tone={tone} required={member.required} />}
        name={member.name}
        note={isMe ? 'you' : (roleOf(member, arranging) ?? (member.person ? undefined : 'guest'))}
        words={words}
        troubled={!member.out && how !== undefined && !['free', 'stretch', 'unknown'].includes(how.state)}
        doings={
          isMe
            ? []
            : [
                {
                  words: member.required ? 'Make optional' : 'Make required',
                  key: 'o',
                  run: () => actions.toggleRequired(member.id),
                },
                {
                  words: member.out ? 'Take in again' : 'Leave out for a moment',
                  key: 'x',
                  run: () => actions.toggleOut(member.id),
                },
                { words: 'Take out', key: 'Delete', run: () => actions.takeOut(member.id) },
              ]
        }
      />
    ),
  }
}

const placeRow = (place: PlaceLane, arranging: Arranging, axis: Axis, actions: LaneActions): BoardRow => {
  const particular = arranging.brief.places.includes(place.id)
  const reason = arranging.placeReasons.find((each) => each.place.id === place.id)
  const free = reason === undefined || reason.free
  const words = free ? '' : duringInWords(reason.how, zoneTable(place.time.zone))
  return {
    id: place.id,
    name: place.name,
    time: place.time,
    axis,
    label: (
      <Label
        mark={<i aria-hidden className="size-3 shrink-0 border-2 border-soft" />}
        name={place.name}
        note={particular ? `${place.seats} seats` : 'fits best'}
        words={words.replace('busy', 'taken')}
        troubled={!free}
        doings={
          particular
            ? [{ words: 'Meet without it', key: 'Delete', run: () => actions.dropPlace(place.id) }]
            : []
        }
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
  const tones = tonesOf(members.map((member) => member.id))
  const rowOf = (member: Member) =>
    memberRow(member, tones.get(member.id) ?? 'var(--soft)', arranging, axis, actions)
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
      rows: inside.map((member) => rowOf(member)),
    }
  })
  const guests = members.filter((member) => keyOf(member) === GUESTS)
  const others: BoardGroup[] = [
    {
      id: GUESTS,
      zone,
      axis,
      title: <b>Guests</b>,
      rows: guests.map((member) => rowOf(member)),
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
