import ICAL from 'ical.js'
import { headOf, planChange } from '../entries/index.ts'
import { nextDates } from '../recurrence/index.ts'
import type { SpanState } from '../sharing/index.ts'
import { DAY, type Instant, instantOf, type Wall, wallText, zoneTable } from '../time/index.ts'
import { type CalendarEntry, isNewer, type Revision } from './entry.ts'
import {
  componentOf,
  eventReader,
  type FileTimes,
  type Made,
  type Parsed,
  parseEvent,
  Refusal,
} from './event.ts'
import { type Block, blocksOf } from './lines.ts'
import { type CalendarTodo, readTodo } from './todo.ts'
import { wallOfTime, zoneFinder } from './zones.ts'

/** Something in a file that was not taken: where, what, and why. */
export interface Refused {
  /** The line on which it begins, counted from 1. */
  readonly line: number
  readonly title: string
  readonly reason: string
  /** The time it may concern, as far as that is not known; null when it concerns none, or is known all the same. */
  readonly unknown: { readonly from: Instant; readonly to: Instant } | null
}

/** An entry, or with `date` one date of it, that a file says is off. */
export interface Cancelled extends Revision {
  readonly uid: string
  readonly date: { readonly wall: Wall; readonly instant: Instant } | null
}

export interface ReadCalendar {
  readonly entries: readonly CalendarEntry[]
  readonly todos: readonly CalendarTodo[]
  /**
   * What is no entry of ours (its reason stands in `refused`), but whose time was understood: an hourly rule, six weeks
   * of leave, one date of a series that is not there. `doubtful` when it may be on fewer dates than it says.
   */
  readonly beyond: readonly { readonly entry: CalendarEntry; readonly doubtful: boolean }[]
  readonly cancelled: readonly Cancelled[]
  readonly refused: readonly Refused[]
  /** Busy times of VFREEBUSY parts. */
  readonly busy: readonly { readonly start: Instant; readonly end: Instant; readonly state: SpanState }[]
  /** Of a file of busy times alone that says for when they are: beyond that nothing is known. Null for everything else. */
  readonly covers: { readonly from: Instant; readonly to: Instant } | null
  /** True when the text ends before its calendar does. */
  readonly cut: boolean
}

/** More components than this are not looked at: no calendar of a person has them. */
const MOST_BLOCKS = 100_000

/** Components that are none of our entries, as a person calls them. */
const OTHER_KINDS: Record<string, string> = {
  VJOURNAL: 'It is a journal note. Only entries are read.',
  VAVAILABILITY: 'It says when somebody can be asked (VAVAILABILITY), which is not read.',
}

/** So many dates after a change of all that follow are compared with what it means. */
const COMPARED = 60

/** A series in the making, in the pieces into which changes of "this and all following" cut it. */
interface Piece {
  readonly made: Made
  /** From which date on it holds, as the file's own rule counts them, and how far its dates were moved. */
  readonly from: Wall
  readonly by: number
}

/** The newest of the entries with one UID, without the component it was read from: a large file has many. */
interface Found extends Revision {
  readonly block: Block
  readonly title: string
  readonly cancelled: boolean
  /** True for a series of several rules, which are several entries side by side. */
  readonly side: boolean
  pieces: Piece[]
}

/** A reader of the events among components, by the zones that came along; those that cannot be read are given back. */
export const readerOf = (blocks: readonly Block[], home: string) => {
  const zones = new Map<string, ICAL.Component>()
  const broken: Block[] = []
  for (const block of blocks.filter((each) => each.kind === 'VTIMEZONE')) {
    try {
      const component = componentOf(block)
      const tzid = component.getFirstPropertyValue('tzid')
      if (typeof tzid === 'string') zones.set(tzid.trim(), component)
    } catch {
      broken.push(block)
    }
  }
  const finder = zoneFinder(zones, home)
  return { reader: eventReader(finder, home), times: { finder, home }, broken }
}

/** Reads the iCalendar text of a file or a feed. `home` is the zone for what names none. Throws `BadCalendar`. */
export const readCalendar = (text: string, home: string): ReadCalendar => {
  const { blocks: all, method, open, cut } = blocksOf(text)
  const blocks = all.slice(0, MOST_BLOCKS)
  const refused: Refused[] = []
  const refuse = (block: Block, title: string, reason: string, unknown: Refused['unknown']) =>
    refused.push({ line: block.line, title, reason, unknown })
  const { reader, times: fileTimes, broken } = readerOf(blocks, home)
  for (const block of broken) refuse(block, 'a time zone', 'It cannot be read.', null)

  /** Does `work` for an event; what it refuses, or fails at, is told and spoils nothing else. */
  const attempt = (block: Block, title: string, work: () => void) => {
    try {
      work()
    } catch (error) {
      if (error instanceof Refusal) refuse(block, title, error.message, error.unknown)
      else refuse(block, title, 'It cannot be read.', ALWAYS)
    }
  }

  const series = new Map<string, Found>()
  const beyond: { entry: CalendarEntry; doubtful: boolean }[] = []
  const changes: Parsed[] = []
  const cancelled: Cancelled[] = []

  const keepBeyond = (block: Block, made: Made, reason: string) => {
    beyond.push(made)
    const from = made.doubtful ? instantOf(zoneTable(made.entry.zone), made.entry.starts) : null
    refuse(block, made.entry.title, reason, from === null ? null : { from, to: from })
  }

  const foundOf = (read: Parsed): Found => ({
    ...revisionOf(read),
    block: read.block,
    title: read.title,
    cancelled: read.cancelled,
    side: read.rules.length > 1,
    pieces: read.cancelled
      ? []
      : reader.entriesOf(read).map((made) => ({ made, from: Number.NEGATIVE_INFINITY, by: 0 })),
  })
  const keepNewest = (read: Parsed) => {
    const found = foundOf(read)
    const before = series.get(read.uid)
    const put = (older: Found, reason: string) => {
      for (const { made } of older.pieces) keepBeyond(older.block, made, made.trouble ?? reason)
    }
    if (!read.uid) put(found, 'It has no UID.')
    else if (!before) series.set(read.uid, found)
    else if (isNewer(found, before) || isNewer(before, found)) {
      const older = isNewer(found, before) ? before : found
      if (older === before) series.set(read.uid, found)
      refuse(older.block, older.title, 'A newer one with the same UID is in the file.', null)
    } else put(found, 'Another with the same UID came before it.')
  }

  for (const block of blocks) {
    const other = OTHER_KINDS[block.kind]
    if (other) refuse(block, '', other, null)
    if (block.kind !== 'VEVENT') continue
    attempt(block, '', () => {
      const read = parseEvent(block, method)
      attempt(block, read.title, () => {
        if (read.misdated) throw new Refusal('One of its times is on no calendar.', ALWAYS)
        if (read.event.hasProperty('recurrence-id')) changes.push(read)
        else keepNewest(read)
      })
    })
  }
  for (const [uid, found] of series) {
    if (!found.cancelled) continue
    cancelled.push({ ...revisionOf(found), uid, date: null })
    series.delete(uid)
  }

  /** Which dates an event changes: the newest word about a date counts, and earlier dates come first. */
  const dated = changes.flatMap((read) => {
    const found: { read: Parsed; at: Wall }[] = []
    attempt(read.block, read.title, () => {
      const piece = series.get(read.uid)?.pieces[0]
      const lone = reader.loneDate(read)
      found.push({ read, at: piece ? reader.recurrenceOf(read, piece.made.entry) : (lone?.wall ?? 0) })
    })
    return found
  })
  const bySeriesAndDate = new Map<string, { read: Parsed; at: Wall }>()
  for (const one of dated) {
    const key = `${one.at} ${one.read.uid}`
    const before = bySeriesAndDate.get(key)
    if (!before || !isNewer(before.read, one.read)) bySeriesAndDate.set(key, one)
  }

  for (const { read, at } of [...bySeriesAndDate.values()].sort((a, b) => a.at - b.at))
    attempt(read.block, read.title, () => {
      const found = series.get(read.uid)
      if (!found) {
        if (read.cancelled)
          cancelled.push({ ...revisionOf(read), uid: read.uid, date: reader.loneDate(read) })
        else
          for (const made of reader.entriesOf({ ...read, rules: [] }))
            keepBeyond(read.block, made, 'The series it belongs to is not in the file.')
        return
      }
      const following = read.event.getFirstProperty('recurrence-id')?.getParameter('range')
      const last = found.pieces.findLastIndex((piece) => piece.from <= at)
      found.pieces = found.pieces.flatMap((piece, i) => {
        if (i !== last && !found.side) return [piece]
        if (following) return changeFollowing(reader, piece, read, at)
        const { entry } = piece.made
        const next = reader.overrideOf(read, entry, at + piece.by)
        const others = entry.overrides.filter((one) => one.recurrence !== next.recurrence)
        return [{ ...piece, made: { ...piece.made, entry: { ...entry, overrides: [...others, next] } } }]
      })
    })

  const entries: CalendarEntry[] = []
  for (const { block, pieces } of series.values()) {
    const trouble = pieces.find((piece) => piece.made.trouble !== null)?.made.trouble ?? null
    for (const [i, { made }] of pieces.entries()) {
      if (trouble === null) entries.push(made.entry)
      else if (i === 0) keepBeyond(block, made, trouble)
      else beyond.push(made)
    }
  }
  if (open) refuse(open, '', 'The file ends in the middle of it.', ALWAYS)
  if (all.length > blocks.length)
    refused.push({
      line: all[MOST_BLOCKS]?.line ?? 0,
      title: '',
      reason: `Only the first ${MOST_BLOCKS} are read.`,
      unknown: ALWAYS,
    })
  const ranges: Range[] = []
  const times = blocks.filter((block) => block.kind === 'VFREEBUSY')
  const busy = times.flatMap((block) => {
    let found: ReadCalendar['busy'] = []
    attempt(block, '', () => {
      found = busyOf(block)
      ranges.push(rangeOf(block))
    })
    return found
  })
  const alone = times.length > 0 && entries.length + beyond.length === 0 && ranges.length === times.length
  const covers = alone
    ? {
        from: Math.min(...ranges.map((range) => range.from)),
        to: Math.max(...ranges.map((range) => range.to)),
      }
    : null
  return {
    entries,
    todos: todosIn(blocks, fileTimes, method, (block, title, reason) => refuse(block, title, reason, null)),
    beyond,
    cancelled,
    refused: refused.sort((a, b) => a.line - b.line),
    busy,
    covers,
    cut,
  }
}

/** The to-dos of a file, the newest of each UID. A to-do takes no time: one that cannot be read makes none unknown. */
const todosIn = (
  blocks: readonly Block[],
  of: FileTimes,
  method: string,
  refuse: (block: Block, title: string, reason: string) => void,
): CalendarTodo[] => {
  const todos = new Map<string, CalendarTodo>()
  for (const block of blocks) {
    if (block.kind !== 'VTODO') continue
    let title = ''
    try {
      const read = parseEvent(block, method)
      title = read.title
      const { todo, partly } = readTodo(of, read)
      const before = todos.get(todo.uid)
      if (!before || isNewer(todo, before)) todos.set(todo.uid, todo)
      if (before)
        refuse(
          block,
          title,
          isNewer(before, todo) || isNewer(todo, before)
            ? 'A newer one with the same UID is in the file.'
            : 'Another with the same UID came before it.',
        )
      if (partly) refuse(block, title, partly)
    } catch (error) {
      refuse(block, title, error instanceof Refusal ? error.message : 'It cannot be read.')
    }
  }
  return [...todos.values()]
}

const ALWAYS = { from: Number.NEGATIVE_INFINITY, to: Number.POSITIVE_INFINITY }

const revisionOf = ({ sequence, stamp }: Revision): Revision => ({ sequence, stamp })

/**
 * RANGE=THISANDFUTURE (RFC 5545 section 3.2.13): the date and all that follow are moved by as much, and are as it says.
 * Throws `Refusal` where our rules cannot say exactly that.
 */
const changeFollowing = (
  reader: ReturnType<typeof eventReader>,
  piece: Piece,
  read: Parsed,
  at: Wall,
): Piece[] => {
  const { entry } = piece.made
  const table = zoneTable(entry.zone)
  const recurrence = at + piece.by
  const { overrides: _, ...bare } = entry
  if (read.cancelled) {
    const head = headOf(entry, table, recurrence)
    const kept = entry.overrides.filter((one) => one.recurrence < recurrence)
    return head ? [{ ...piece, made: { ...piece.made, entry: { ...bare, ...head, overrides: kept } } }] : []
  }
  const { starts, minutes, allDay, words } = reader.changeOf(read, entry)
  const { head, tail } = planChange(entry, entry.overrides, table, {
    scope: 'following',
    recurrence,
    starts,
    minutes,
    allDay,
    repetition: null,
  })
  const by = starts - recurrence
  const meant = nextDates(entry, table, recurrence, COMPARED).map((wall) => wall + by)
  const given = nextDates(tail.series, table, starts, COMPARED)
  if (meant.length !== given.length || meant.some((wall, i) => wall !== given[i]))
    throw new Refusal('It changes all following dates in a way that is not read.', {
      from: instantOf(table, recurrence) - 7 * DAY,
      to: Number.POSITIVE_INFINITY,
    })
  const next: CalendarEntry = {
    ...bare,
    ...tail.series,
    allDay,
    ...words,
    overrides: tail.overrides,
    uid: head ? `${entry.uid}/${wallText(at)}` : entry.uid,
  }
  const changed: Piece = { made: { ...piece.made, entry: next }, from: at, by: piece.by + by }
  if (!head) return [{ ...changed, from: piece.from }]
  const before: CalendarEntry = { ...bare, ...head.series, allDay: entry.allDay, overrides: head.overrides }
  return [{ ...piece, made: { ...piece.made, entry: before } }, changed]
}

const STATES: Record<string, SpanState> = {
  'BUSY-TENTATIVE': 'tentative',
  'BUSY-UNAVAILABLE': 'away',
  BUSY: 'busy',
}

interface Range {
  readonly from: Instant
  readonly to: Instant
}

/** For when a part of busy times is (RFC 5545 section 3.6.4); for always where it does not say. */
const rangeOf = (block: Block): Range => {
  const component = componentOf(block)
  const at = (name: string): Instant | null => {
    const value = component.getFirstPropertyValue(name)
    return value instanceof ICAL.Time ? wallOfTime(value) : null
  }
  return { from: at('dtstart') ?? ALWAYS.from, to: at('dtend') ?? ALWAYS.to }
}

const busyOf = (block: Block): ReadCalendar['busy'] =>
  componentOf(block)
    .getAllProperties('freebusy')
    .flatMap((property) => {
      const type = String(property.getParameter('fbtype') ?? 'BUSY').toUpperCase()
      if (type === 'FREE') return []
      return property.getValues().flatMap((period) =>
        period instanceof ICAL.Period
          ? [
              {
                start: wallOfTime(period.start),
                end: wallOfTime(period.getEnd()),
                state: STATES[type] ?? ('busy' as const),
              },
            ]
          : [],
      )
    })
