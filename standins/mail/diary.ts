import ICAL from 'ical.js'

/** One date as a diary shows it. Instants in milliseconds. */
export interface Shown {
  readonly start: number
  readonly end: number
  readonly title: string
  readonly place: string
}

/** More dates than this of one meeting are not looked at. */
const MOST_DATES = 500

interface Dated {
  readonly component: ICAL.Component
  readonly off: boolean
}

/** What a diary has of one meeting. */
interface Kept {
  readonly base: ICAL.Component | null
  /** Dates of which something is known by themselves, by their RECURRENCE-ID. */
  readonly dates: ReadonlyMap<string, Dated>
}

const textIn = (component: ICAL.Component, name: string): string =>
  String(component.getFirstPropertyValue(name) ?? '')

const timeIn = (component: ICAL.Component, name: string): ICAL.Time | null => {
  const value = component.getFirstPropertyValue(name)
  return value instanceof ICAL.Time ? value : null
}

const revisionOf = (component: ICAL.Component): [number, number] => [
  Number(component.getFirstPropertyValue('sequence') ?? 0),
  timeIn(component, 'dtstamp')?.toUnixTime() ?? 0,
]

/** Whether one was written before another (RFC 5546 section 2.1.5). */
const isOlder = (one: ICAL.Component, other: ICAL.Component): boolean => {
  const [[sequence, stamp], [otherSequence, otherStamp]] = [revisionOf(one), revisionOf(other)]
  return sequence === otherSequence ? stamp < otherStamp : sequence < otherSequence
}

/** The dates that are named beside the first. */
const rdatesOf = (component: ICAL.Component): Set<string> =>
  new Set(component.getAllProperties('rdate').flatMap((one) => one.getValues().map(String)))

const ms = (time: ICAL.Time): number => time.toUnixTime() * 1000

const shownOf = (component: ICAL.Component, start: ICAL.Time, end: ICAL.Time): Shown => ({
  start: ms(start),
  end: ms(end),
  title: textIn(component, 'summary'),
  place: textIn(component, 'location'),
})

/** The dates of one meeting, as a mail program works them out of what it was sent. */
const datesOf = ({ base, dates }: Kept): Shown[] => {
  const own = [...dates.values()].filter((one) => !one.off).map((one) => one.component)
  if (!base)
    return own.flatMap((component) => {
      const event = new ICAL.Event(component)
      return [shownOf(component, event.startDate, event.endDate)]
    })
  const event = new ICAL.Event(base, { exceptions: own })
  if (!event.isRecurring()) return dates.size ? [] : [shownOf(base, event.startDate, event.endDate)]
  const found: Shown[] = []
  const first = event.startDate.toString()
  // The first date counts, whatever follows it (RFC 5545 section 3.8.5.2); this reader leaves it out beside RDATE alone.
  const unnamed = !base.hasProperty('rrule') && !rdatesOf(base).has(first)
  if (unnamed && !dates.has(first)) found.push(shownOf(base, event.startDate, event.endDate))
  const iterator = event.iterator()
  for (let i = 0; i < MOST_DATES; i++) {
    const next = iterator.next()
    if (!next) break
    if (dates.get(next.toString())?.off) continue
    const { item, startDate, endDate } = event.getOccurrenceDetails(next)
    found.push(shownOf(item.component, startDate, endDate))
  }
  return found
}

/** The events of a calendar part; none where it cannot be read. */
const readable = (calendar: string): ICAL.Component[] => {
  try {
    return new ICAL.Component(ICAL.parse(calendar)).getAllSubcomponents('vevent')
  } catch {
    return []
  }
}

/**
 * The diary of one mailbox: it takes in what comes by mail as iTIP has it (RFC 5546), an older word never before a newer
 * one. It shares no code with whoever writes to it but the reader of iCalendar.
 */
export const openDiary = (owner: string) => {
  const meetings = new Map<string, Kept>()

  const takeWhole = (uid: string, component: ICAL.Component, method: string) => {
    const kept = meetings.get(uid)
    if (kept?.base && isOlder(component, kept.base)) return
    meetings.set(uid, { base: method === 'CANCEL' ? null : component, dates: new Map() })
  }

  const takeDate = (uid: string, component: ICAL.Component, method: string, fresh: boolean) => {
    const kept = meetings.get(uid) ?? { base: null, dates: new Map() }
    const recurrence = timeIn(component, 'recurrence-id')?.toString() ?? ''
    const before = kept.dates.get(recurrence)
    if (!fresh && before && isOlder(component, before.component)) return
    meetings.set(uid, {
      ...kept,
      dates: new Map([...kept.dates, [recurrence, { component, off: method === 'CANCEL' }]]),
    })
  }

  return {
    take: (method: string, calendar: string): void => {
      if (method !== 'REQUEST' && method !== 'CANCEL') return
      const events = readable(calendar)
      const isDate = (one: ICAL.Component) => one.hasProperty('recurrence-id')
      // The whole comes first, whatever order they stand in: the dates that come along are of it.
      for (const one of events.filter((each) => !isDate(each))) takeWhole(textIn(one, 'uid'), one, method)
      const whole = new Set(events.filter((each) => !isDate(each)).map((one) => textIn(one, 'uid')))
      for (const one of events.filter(isDate))
        takeDate(textIn(one, 'uid'), one, method, whole.has(textIn(one, 'uid')))
    },
    /** The dates of a meeting, in order. */
    shown: (uid: string): Shown[] => {
      const kept = meetings.get(uid)
      return kept ? datesOf(kept).sort((a, b) => a.start - b.start) : []
    },
    /** As what its owner is expected at a meeting (RFC 5545 ROLE); null where they are not. */
    role: (uid: string): string | null => {
      const attendees = meetings.get(uid)?.base?.getAllProperties('attendee') ?? []
      const mine = attendees.find((one) => String(one.getFirstValue()).toLowerCase() === `mailto:${owner}`)
      return mine ? String(mine.getParameter('role') ?? '') : null
    },
    /** All dates of all meetings, in order. */
    all: (): Shown[] => [...meetings.values()].flatMap(datesOf).sort((a, b) => a.start - b.start),
    uids: (): string[] => [...meetings.keys()],
  }
}

export type Diary = ReturnType<typeof openDiary>
