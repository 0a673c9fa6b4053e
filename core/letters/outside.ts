import { type Joining, joiningBy } from '../conferences/index.ts'
import type { CalendarEntry, CalendarOverride } from '../feeds/index.ts'
import { type Block, blocksOf, NOTHING_CHANGED, parseEvent, readCalendar, readerOf } from '../feeds/index.ts'
import { type Answer, isAnswer } from '../sharing/index.ts'
import { manyLines, oneLine } from '../text/index.ts'
import { type Instant, instantOf, toWall, type Wall, zoneTable } from '../time/index.ts'
import { addressIn, BadMessage, type MessageTime, wallIn } from './incoming.ts'

/** Somebody who is invited by somebody outside, as the message says it. */
interface Attendee {
  readonly address: string
  readonly answer: Answer
  /** Whether they are asked for an answer (RFC 5545 RSVP); it is wanted where the message does not say. */
  readonly rsvp: boolean
}

/** What a message from outside says of a meeting, or of one date of it (RFC 5546 sections 3.2.2, 3.2.5 and 3.2.8). */
export interface Outside {
  readonly method: 'REQUEST' | 'CANCEL' | 'DECLINECOUNTER'
  readonly uid: string
  readonly sequence: number
  readonly stamp: Instant | null
  readonly organizer: { readonly name: string; readonly address: string }
  readonly attendees: readonly Attendee[]
  readonly comment: string
  /** How one joins it from afar, by its organizer's own service. */
  readonly joining: Joining | null
  /** The one date of a series that it is about. */
  readonly date: MessageTime | null
  /** The meeting itself, or the date as if it were one. Null where it cannot be one of our entries. */
  readonly entry: CalendarEntry | null
}

/** More components than this no invitation has: a weekly series with every date of a year changed has 53. */
const MOST_EVENTS = 100
const MOST_TEXT = 300_000
/** Nobody is given more ways to join. */
const MOST_WAYS = 20

type Parsed = ReturnType<typeof parseEvent>

const METHODS = ['REQUEST', 'CANCEL', 'DECLINECOUNTER'] as const

/** The method of a message from outside; null where it is something that is sent back to one of ours. */
export const outsideMethod = (text: string, said: string | null): Outside['method'] | null => {
  const method = /^METHOD(?:;[^:]*)?:\s*([A-Z]+)\s*$/im.exec(text)?.[1]?.toUpperCase() ?? said?.toUpperCase()
  return METHODS.find((one) => one === method) ?? null
}

/** A date as if it were a meeting by itself; null where it cannot be one of our entries. */
const dateAlone = (reader: ReturnType<typeof readerOf>['reader'], read: Parsed) => {
  try {
    const [made] = reader.entriesOf({ ...read, rules: [] })
    return made?.trouble === null ? made.entry : null
  } catch {
    return null
  }
}

/**
 * Reads what somebody outside sends about their meetings: each as a whole, with the dates that differ, or a date by
 * itself. `home` is the zone for times that name none. It takes thought: not for the thread that answers. Throws
 * `BadMessage`.
 */
export const readOutside = (text: string, method: Outside['method'], home: string): Outside[] => {
  if (text.length > MOST_TEXT)
    throw new BadMessage('too-large', 'The calendar part is larger than an invitation is.')
  let blocks: readonly Block[]
  try {
    blocks = blocksOf(text).blocks
  } catch {
    throw new BadMessage('not-a-calendar', 'The calendar part of this mail cannot be read.')
  }
  const events = blocks.filter((one) => one.kind === 'VEVENT')
  if (events.length === 0 || events.length > MOST_EVENTS)
    throw new BadMessage('not-an-invitation', 'This mail carries no invitation that can be read.')
  const { reader } = readerOf(blocks, home)
  const whole = readCalendar(text, home)
  const found = events.map((block): Omit<Outside, 'entry'> & { readonly read: Parsed } => {
    let read: Parsed
    let date: MessageTime | null
    try {
      read = parseEvent(block, method)
      if (read.misdated) throw new Error('A time that is on no calendar is none.')
      date = reader.loneDate(read)
    } catch {
      throw new BadMessage('not-a-calendar', 'The calendar part of this mail cannot be read.')
    }
    const { event, uid, sequence, stamp } = read
    const organizer = event.getFirstProperty('organizer')
    const address = addressIn(organizer?.getFirstValue())
    if (!uid || !address)
      throw new BadMessage('not-an-invitation', 'The invitation does not say which meeting it is, and whose.')
    const attendees = event.getAllProperties('attendee').map((one): Attendee => {
      const answer = String(one.getParameter('partstat') ?? '').toLowerCase()
      return {
        address: addressIn(one.getFirstValue()),
        answer: isAnswer(answer) ? answer : 'needs-action',
        rsvp: String(one.getParameter('rsvp') ?? 'TRUE').toUpperCase() !== 'FALSE',
      }
    })
    return {
      read,
      method,
      uid,
      sequence,
      stamp,
      organizer: { name: oneLine(String(organizer?.getParameter('cn') ?? '')).slice(0, 100), address },
      attendees,
      comment: manyLines(String(event.getFirstPropertyValue('comment') ?? ''))
        .trim()
        .slice(0, 2000),
      joining: joiningBy(
        event
          .getAllProperties('conference')
          .slice(0, MOST_WAYS)
          .map((one) => oneLine(String(one.getFirstValue()))),
      ),
      date,
    }
  })
  // What comes with its series is in it already.
  const series = new Set(found.flatMap((one) => (one.date === null ? one.uid : [])))
  return found
    .filter((one) => one.date === null || !series.has(one.uid))
    .map(({ read, ...one }) => ({
      ...one,
      entry:
        one.date === null
          ? (whole.entries.find((each) => each.uid === one.uid) ?? null)
          : dateAlone(reader, read),
    }))
}

const differing = <T>(next: T, usual: T): T | null => (next === usual ? null : next)

/** What a date has otherwise than its series, in the series' own zone. */
const overrideFor = (series: CalendarEntry, recurrence: Wall, date: CalendarEntry): CalendarOverride => {
  const starts = toWall(zoneTable(series.zone), instantOf(zoneTable(date.zone), date.starts))
  return {
    recurrence,
    cancelled: false,
    starts: differing(starts, recurrence),
    minutes: differing(date.minutes, series.minutes),
    title: differing(date.title, series.title),
    place: differing(date.place, series.place),
    note: differing(date.note, series.note),
    shows: differing(date.shows, series.shows),
    private: differing(date.private, series.private),
  }
}

/**
 * What a meeting from outside is after a message about one of its dates. Who knows none of the series gets that date
 * alone, and each further one beside it. Null where there is nothing that it could be about.
 */
export const withDateFrom = (known: CalendarEntry | null, message: Outside): CalendarEntry | null => {
  const { date, entry, method } = message
  if (!date) return entry
  const base = known ?? entry
  if (!base) return null
  const recurrence = wallIn(date, base.zone)
  const series: CalendarEntry = known ?? {
    ...base,
    rule: null,
    added: [],
    excepted: [],
    overrides: [],
    starts: recurrence,
  }
  const others = series.overrides.filter((one) => one.recurrence !== recurrence)
  if (method === 'CANCEL' || !entry)
    return known
      ? { ...series, overrides: [...others, { ...NOTHING_CHANGED, recurrence, cancelled: true }] }
      : null
  const own = overrideFor(series, recurrence, entry)
  const differs = Object.entries(own).some(
    ([name, value]) => name !== 'recurrence' && value !== null && value !== false,
  )
  const alone = series.rule === null && recurrence !== series.starts && !series.added.includes(recurrence)
  return {
    ...series,
    added: alone ? [...series.added, recurrence].sort((a, b) => a - b) : series.added,
    overrides: differs ? [...others, own] : others,
  }
}

/** What of a meeting from outside an answer is to: when each date is, and where. */
export const timesOf = (entry: CalendarEntry): string =>
  JSON.stringify([
    entry.zone,
    entry.starts,
    entry.minutes,
    entry.rule,
    entry.added,
    entry.excepted,
    entry.place,
    entry.overrides
      .map((one) => [one.recurrence, one.cancelled, one.starts, one.minutes, one.place])
      .sort((a, b) => Number(a[0]) - Number(b[0])),
  ])
