import ICAL from 'ical.js'
import { noteOfText } from '../entries/note.ts'
import { BadRule, readRule, type Series, seriesTrouble, writeRule } from '../recurrence/index.ts'
import type { SpanState } from '../sharing/index.ts'
import {
  DAY,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  type Wall,
  wallOf,
  zoneTable,
} from '../time/index.ts'
import type { CalendarEntry, CalendarOverride, Contact } from './entry.ts'
import { zoneFinder } from './zones.ts'

/** A text that is no iCalendar object at all. The message is for a person. */
export class BadCalendar extends Error {}

/** Something in a file that was not taken: where, what, and why. */
export interface Refused {
  /** The line on which it begins, counted from 1. */
  readonly line: number
  readonly title: string
  readonly reason: string
}

export interface ReadCalendar {
  readonly entries: readonly CalendarEntry[]
  readonly refused: readonly Refused[]
  /** Busy times of VFREEBUSY parts. */
  readonly busy: readonly { readonly start: Instant; readonly end: Instant; readonly state: SpanState }[]
}

const MOST_MINUTES = (31 * DAY) / MINUTE
const MOST_REMINDERS = 5
const MOST_REMINDER_MINUTES = 40_320

/** A component as it stands in the file: its lines, unread, so that a broken one spoils nothing but itself. */
interface Block {
  readonly kind: string
  readonly line: number
  readonly text: string
}

const blocksOf = (text: string): { blocks: Block[]; cut: Block | null } => {
  const blocks: Block[] = []
  const lines = text.split(/\r\n|\n|\r/)
  if (lines[0]?.startsWith('\uFEFF')) lines[0] = lines[0].slice(1)
  const first = lines.find((line) => line.trim() !== '')
  if (first?.trim().toUpperCase() !== 'BEGIN:VCALENDAR')
    throw new BadCalendar('This is no iCalendar file: it does not begin with BEGIN:VCALENDAR.')
  let open: { kind: string; line: number; lines: string[] } | null = null
  lines.forEach((line, i) => {
    const begin = /^BEGIN:(VEVENT|VTIMEZONE|VFREEBUSY)\s*$/i.exec(line)
    if (begin && !open) open = { kind: (begin[1] ?? '').toUpperCase(), line: i + 1, lines: [] }
    if (!open) return
    open.lines.push(line)
    if (new RegExp(`^END:${open.kind}\\s*$`, 'i').test(line)) {
      blocks.push({ kind: open.kind, line: open.line, text: open.lines.join('\r\n') })
      open = null
    }
  })
  // TypeScript does not see that the loop above may leave one open.
  const left = open as { kind: string; line: number; lines: string[] } | null
  return { blocks, cut: left && { kind: left.kind, line: left.line, text: left.lines.join('\r\n') } }
}

const componentOf = (block: Block): ICAL.Component => new ICAL.Component(ICAL.parse(`${block.text}\r\n`))

const wallOfTime = (time: ICAL.Time): Wall =>
  Date.UTC(time.year, time.month - 1, time.day, time.hour, time.minute)

const isTime = (value: unknown): value is ICAL.Time => value instanceof ICAL.Time
const textOfProperty = (component: ICAL.Component, name: string): string => {
  const value = component.getFirstPropertyValue(name)
  return typeof value === 'string' ? value.trim() : ''
}

/** Says in words why a component cannot be taken. */
class Refusal extends Error {}

const zoneOfProperty = (property: ICAL.Property): string | null => {
  const tzid = property.getParameter('tzid')
  return typeof tzid === 'string' ? tzid : (tzid?.[0] ?? null)
}

/** Reads the iCalendar text of a file or a feed. `home` is the zone for what names none. Throws `BadCalendar`. */
export const readCalendar = (text: string, home: string): ReadCalendar => {
  const { blocks, cut } = blocksOf(text)
  const refused: Refused[] = []
  const zones = new Map<string, ICAL.Component>()
  for (const block of blocks.filter((each) => each.kind === 'VTIMEZONE')) {
    try {
      const component = componentOf(block)
      const tzid = textOfProperty(component, 'tzid')
      if (tzid) zones.set(tzid, component)
    } catch {
      refused.push({ line: block.line, title: 'a time zone', reason: 'It cannot be read.' })
    }
  }
  const finder = zoneFinder(zones, home)

  /** The instant and zone of a time property. */
  const placed = (
    property: ICAL.Property,
    time: ICAL.Time,
  ): { zone: string; wall: Wall; instant: Instant } => {
    const wall = wallOfTime(time)
    if (time.zone === ICAL.Timezone.utcTimezone) return { zone: 'UTC', wall, instant: wall }
    const tzid = zoneOfProperty(property)
    if (tzid === null) return { zone: home, wall, instant: instantOf(zoneTable(home), wall) }
    const zone = finder.zoneFor(tzid, wall)
    if (zone !== null) return { zone, wall, instant: instantOf(zoneTable(zone), wall) }
    const offset = finder.offsetByFile(tzid, wall)
    if (offset === null)
      throw new Refusal(
        `Its time zone "${tzid.slice(0, 60)}" is not known, and the file does not describe it.`,
      )
    return { zone: '', wall, instant: wall - offset }
  }

  const timeOf = (event: ICAL.Component) => {
    const property = event.getFirstProperty('dtstart')
    const time = property?.getFirstValue()
    if (!property || !isTime(time)) throw new Refusal('It has no start that can be read.')
    const allDay = time.isDate
    const start = placed(property, time)
    const endProperty = event.getFirstProperty('dtend')
    const endTime = endProperty?.getFirstValue()
    const duration = event.getFirstPropertyValue('duration')
    let minutes: number
    if (endProperty && isTime(endTime))
      minutes = allDay
        ? (wallOfTime(endTime) - start.wall) / MINUTE
        : (placed(endProperty, endTime).instant - start.instant) / MINUTE
    else if (duration instanceof ICAL.Duration) minutes = duration.toSeconds() / 60
    else minutes = allDay ? 1440 : 1
    minutes = Math.round(minutes)
    if (minutes < 0) throw new Refusal('It ends before it starts.')
    if (minutes > MOST_MINUTES) throw new Refusal('It is longer than 31 days.')
    return { allDay, start, minutes: Math.max(minutes, allDay ? 1440 : 1) }
  }

  const showsOf = (event: ICAL.Component): SpanState => {
    const own = textOfProperty(event, 'x-marmot-shows').toLowerCase()
    if (own === 'away' || own === 'held') return own
    if (textOfProperty(event, 'transp').toUpperCase() === 'TRANSPARENT') return 'listed'
    return textOfProperty(event, 'status').toUpperCase() === 'TENTATIVE' ? 'tentative' : 'busy'
  }

  const noteOf = (event: ICAL.Component): string => {
    const formatted = event.getFirstProperty('x-alt-desc')
    if (formatted && String(formatted.getParameter('fmttype')).toLowerCase() === 'text/html')
      return String(formatted.getFirstValue() ?? '')
    return noteOfText(textOfProperty(event, 'description'))
  }

  const wordsOf = (event: ICAL.Component) => ({
    title: textOfProperty(event, 'summary').slice(0, 200),
    place: textOfProperty(event, 'location').slice(0, 200),
    note: noteOf(event),
    shows: showsOf(event),
    private: ['PRIVATE', 'CONFIDENTIAL'].includes(textOfProperty(event, 'class').toUpperCase()),
  })

  const contactsOf = (event: ICAL.Component): Contact[] => {
    const read = (property: ICAL.Property, organizer: boolean): Contact => ({
      name: String(property.getParameter('cn') ?? '').slice(0, 100),
      address: String(property.getFirstValue() ?? '')
        .replace(/^mailto:/i, '')
        .toLowerCase()
        .slice(0, 200),
      organizer,
      required: String(property.getParameter('role') ?? '').toUpperCase() !== 'OPT-PARTICIPANT',
      answer: String(property.getParameter('partstat') ?? 'needs-action').toLowerCase(),
    })
    const organizer = event.getFirstProperty('organizer')
    return [
      ...(organizer ? [{ ...read(organizer, true), answer: 'accepted' }] : []),
      ...event.getAllProperties('attendee').map((property) => read(property, false)),
    ].slice(0, 500)
  }

  const remindersOf = (event: ICAL.Component, start: Instant, minutes: number): number[] => {
    const before = event.getAllSubcomponents('valarm').flatMap((part) => {
      const trigger = part.getFirstProperty('trigger')
      const value = trigger?.getFirstValue()
      if (isTime(value)) return [Math.round((start - wallOfTime(value)) / MINUTE)]
      if (!(value instanceof ICAL.Duration)) return []
      const fromEnd = String(trigger?.getParameter('related') ?? '').toUpperCase() === 'END'
      return [Math.round(-value.toSeconds() / 60) - (fromEnd ? minutes : 0)]
    })
    const kept = before.filter((each) => each >= 0 && each <= MOST_REMINDER_MINUTES)
    return [...new Set(kept)].sort((a, b) => a - b).slice(0, MOST_REMINDERS)
  }

  /** The wall times of RDATE or EXDATE in the series' own zone. A bare date means the series' own time of that day. */
  const wallsOf = (
    event: ICAL.Component,
    name: string,
    zone: string,
    starts: Wall,
    allDay: boolean,
  ): Wall[] =>
    event.getAllProperties(name).flatMap((property) =>
      property.getValues().flatMap((value): Wall[] => {
        const time = value instanceof ICAL.Period ? value.start : value
        if (!isTime(time)) return []
        if (time.isDate || allDay) return [wallOf(dayOf(wallOfTime(time))) + (starts - wallOf(dayOf(starts)))]
        return [toWall(zoneTable(zone), placed(property, time).instant)]
      }),
    )

  /** The rule in the series' own wall time: an UNTIL in UTC is turned to it. */
  const ruleOf = (block: Block, zone: string): string | null => {
    const unfolded = block.text.replace(/\r\n[ \t]/g, '')
    const found = [...unfolded.matchAll(/^RRULE(?:;[^:]*)?:(.*)$/gim)].map((match) => (match[1] ?? '').trim())
    if (found.length > 1) throw new Refusal('It repeats by more than one rule.')
    const [text] = found
    if (!text) return null
    const rule = readRule(text)
    const until = rule.until?.utc
      ? { wall: toWall(zoneTable(zone), rule.until.wall), utc: false }
      : rule.until
    return writeRule({ ...rule, until })
  }

  const main = (block: Block, event: ICAL.Component, uid: string): CalendarEntry => {
    if (textOfProperty(event, 'status').toUpperCase() === 'CANCELLED') throw new Refusal('It was cancelled.')
    const { allDay, start, minutes } = timeOf(event)
    const repeating = event.hasProperty('rrule') || event.hasProperty('rdate')
    // One date in UTC, or in a zone that only the file knows, is the same instant at home; a series would drift.
    if (repeating && start.zone === '')
      throw new Refusal('It repeats in a time zone that only this file knows.')
    const zone = allDay || start.zone === '' || (start.zone === 'UTC' && !repeating) ? home : start.zone
    const starts = allDay ? start.wall : toWall(zoneTable(zone), start.instant)
    const rule = ruleOf(block, zone)
    const series: Series = {
      starts,
      minutes,
      allDay,
      rule,
      added: wallsOf(event, 'rdate', zone, starts, allDay),
      excepted: wallsOf(event, 'exdate', zone, starts, allDay),
    }
    const trouble = seriesTrouble(series, zoneTable(zone))
    if (trouble) throw new Refusal(trouble)
    const [category] = event.getAllProperties('categories').flatMap((property) => property.getValues())
    return {
      uid,
      zone,
      starts,
      minutes,
      allDay,
      rule,
      added: series.added,
      excepted: series.excepted,
      overrides: [],
      ...wordsOf(event),
      category: typeof category === 'string' && category.trim() ? category.trim().slice(0, 60) : null,
      reminders: remindersOf(event, start.instant, minutes),
      contacts: contactsOf(event),
    }
  }

  const differing = <T>(next: T, before: T): T | null => (next === before ? null : next)

  const override = (event: ICAL.Component, entry: CalendarEntry): CalendarOverride => {
    const property = event.getFirstProperty('recurrence-id')
    const time = property?.getFirstValue()
    if (!property || !isTime(time)) throw new Refusal('It does not say which date of its series it changes.')
    if (property.getParameter('range'))
      throw new Refusal('It changes all following dates at once, which is not read.')
    const table = zoneTable(entry.zone)
    const recurrence =
      entry.allDay || time.isDate
        ? wallOf(dayOf(wallOfTime(time))) + (entry.starts - wallOf(dayOf(entry.starts)))
        : toWall(table, placed(property, time).instant)
    const cancelled = textOfProperty(event, 'status').toUpperCase() === 'CANCELLED'
    const bare = {
      starts: null,
      minutes: null,
      title: null,
      place: null,
      note: null,
      shows: null,
      private: null,
    }
    if (cancelled) return { recurrence, cancelled, ...bare }
    const { start, minutes, allDay } = timeOf(event)
    const starts = allDay ? start.wall : toWall(table, start.instant)
    const words = wordsOf(event)
    return {
      recurrence,
      cancelled,
      starts: differing(starts, recurrence),
      minutes: differing(minutes, entry.minutes),
      title: differing(words.title, entry.title),
      place: differing(words.place, entry.place),
      note: differing(words.note, entry.note),
      shows: differing(words.shows, entry.shows),
      private: differing(words.private, entry.private),
    }
  }

  const entries = new Map<string, CalendarEntry>()
  const changes: { block: Block; event: ICAL.Component; uid: string }[] = []
  const attempt = (block: Block, event: ICAL.Component | null, work: () => void) => {
    try {
      work()
    } catch (error) {
      const known = error instanceof Refusal || error instanceof BadRule
      refused.push({
        line: block.line,
        title: event ? textOfProperty(event, 'summary').slice(0, 200) : '',
        reason: known ? error.message : 'It cannot be read.',
      })
    }
  }
  for (const block of blocks.filter((each) => each.kind === 'VEVENT')) {
    let event: ICAL.Component
    try {
      event = componentOf(block)
    } catch {
      refused.push({ line: block.line, title: '', reason: 'It cannot be read.' })
      continue
    }
    attempt(block, event, () => {
      const uid = textOfProperty(event, 'uid')
      if (!uid) throw new Refusal('It has no UID, so it could not be known again.')
      if (uid.length > 500) throw new Refusal('Its UID is longer than anybody means.')
      if (event.hasProperty('recurrence-id')) changes.push({ block, event, uid })
      else if (entries.has(uid)) throw new Refusal('Another with the same UID came before it.')
      else entries.set(uid, main(block, event, uid))
    })
  }
  for (const { block, event, uid } of changes)
    attempt(block, event, () => {
      const entry = entries.get(uid)
      if (!entry) throw new Refusal('The series it belongs to is not in the file.')
      const next = override(event, entry)
      const others = entry.overrides.filter((one) => one.recurrence !== next.recurrence)
      entries.set(uid, { ...entry, overrides: [...others, next] })
    })
  if (cut) refused.push({ line: cut.line, title: '', reason: 'The file ends in the middle of it.' })
  return {
    entries: [...entries.values()],
    refused: refused.sort((a, b) => a.line - b.line),
    busy: busyOf(blocks),
  }
}

const STATES: Record<string, SpanState> = {
  'BUSY-TENTATIVE': 'tentative',
  'BUSY-UNAVAILABLE': 'away',
  BUSY: 'busy',
}

const busyOf = (blocks: readonly Block[]): ReadCalendar['busy'] =>
  blocks
    .filter((block) => block.kind === 'VFREEBUSY')
    .flatMap((block) => {
      try {
        return componentOf(block)
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
      } catch {
        return []
      }
    })
