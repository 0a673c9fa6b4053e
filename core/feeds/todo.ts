import ICAL from 'ical.js'
import { LONGEST_MINUTES } from '../entries/index.ts'
import { oneLine } from '../text/index.ts'
import { dayOf, type Instant, MINUTE, toWall, type Wall, wallOf, zoneTable } from '../time/index.ts'
import type { Revision } from './entry.ts'
import {
  endAfter,
  type FileTimes,
  inYears,
  isTime,
  noteOf,
  type Parsed,
  type Placed,
  placed,
  Refusal,
  textOf,
} from './event.ts'
import { addNote } from './note.ts'
import { timeProperty, utcTime } from './zone-component.ts'

/** A to-do as it goes out to, or comes in from, iCalendar (RFC 5545 section 3.6.2). `note` is HTML. */
export interface CalendarTodo extends Revision {
  readonly uid: string
  readonly title: string
  readonly note: string
  /** When it is due, in `zone`; of a whole day its midnight. Null where it is due at no time. */
  readonly due: Wall | null
  readonly dueAllDay: boolean
  readonly zone: string
  /** How long it takes; null where nobody said. */
  readonly minutes: number | null
  readonly priority: number
  readonly percent: number
  readonly done: boolean
  readonly doneAt: Instant | null
  readonly category: string | null
}

/** A to-do that was read, and in words what of it was not taken. */
export interface ReadTodo {
  readonly todo: CalendarTodo
  readonly partly: string | null
}

const within = (value: unknown, most: number): number => {
  const number = Math.round(Number(value ?? 0))
  return number > 0 ? Math.min(number, most) : 0
}

/** How long it takes, where another program has said so; an extension of iCalendar for tasks. */
const ESTIMATED = 'estimated-duration'

const minutesOf = ({ event }: Parsed): number | null => {
  const value = event.getFirstPropertyValue(ESTIMATED)
  try {
    // Without VALUE=DURATION it comes as text.
    const length = value instanceof ICAL.Duration ? value : ICAL.Duration.fromString(String(value ?? ''))
    const minutes = Math.ceil(length.toSeconds() / 60)
    return minutes > 0 ? Math.min(minutes, LONGEST_MINUTES) : null
  } catch {
    return null
  }
}

/** When it was done; nothing where that cannot be meant. */
const doneAtOf = (value: unknown): Instant | null => {
  if (!isTime(value)) return null
  const at = Math.floor(value.toUnixTime()) * 1000
  return inYears(at) ? at : null
}

/** When it is due: as it says, or as long after its beginning as it takes. */
const dueOf = (of: FileTimes, { event }: Parsed): { at: Placed; allDay: boolean; early: boolean } | null => {
  const [property, beginning] = [event.getFirstProperty('due'), event.getFirstProperty('dtstart')]
  const [time, start] = [property?.getFirstValue(), beginning?.getFirstValue()]
  const begins = beginning && isTime(start) ? placed(of, beginning, start) : null
  if (property && isTime(time)) {
    const at = placed(of, property, time)
    return { at, allDay: time.isDate, early: begins !== null && at.instant < begins.instant }
  }
  const duration = event.getFirstPropertyValue('duration')
  if (!begins || !isTime(start) || !(duration instanceof ICAL.Duration)) return null
  const instant = endAfter(begins, duration)
  const wall = toWall(zoneTable(begins.zone || of.home), instant)
  return { at: { ...begins, instant, wall }, allDay: start.isDate, early: false }
}

/**
 * Reads a VTODO. What we have no words for is said and left out: that it repeats, and a beginning after its end. Throws `Refusal`
 * where it is no to-do at all.
 */
export const readTodo = (of: FileTimes, read: Parsed): ReadTodo => {
  const { event } = read
  if (read.misdated) throw new Refusal('One of its times is on no calendar.', null)
  if (!read.uid) throw new Refusal('It has no UID.', null)
  if (read.cancelled) throw new Refusal('It was called off.', null)
  const due = dueOf(of, read)
  // A zone that only the file knows: the same moment, on the owner's clock.
  const zone = due?.at.zone || of.home
  const wall = !due ? null : due.at.zone ? due.at.wall : toWall(zoneTable(zone), due.at.instant)
  if (wall !== null && !inYears(wall)) throw new Refusal('It is due in a year that cannot be meant.', null)
  const completed = event.getFirstPropertyValue('completed')
  const percent = within(event.getFirstPropertyValue('percent-complete'), 100)
  const done = textOf(event, 'status').toUpperCase() === 'COMPLETED' || isTime(completed) || percent === 100
  const category = oneLine(String(event.getFirstPropertyValue('categories') ?? '')).slice(0, 60)
  const troubles = [
    due?.early ? 'It is due before it begins: only when it is due was taken.' : '',
    read.rules.length > 0 ? 'It repeats: only the one that is written was taken.' : '',
  ].filter(Boolean)
  return {
    todo: {
      uid: read.uid,
      sequence: read.sequence,
      stamp: read.stamp,
      title: read.title || '(no title)',
      note: noteOf(event),
      due: wall === null ? null : due?.allDay ? wallOf(dayOf(wall)) : Math.floor(wall / MINUTE) * MINUTE,
      dueAllDay: due?.allDay ?? true,
      zone,
      minutes: minutesOf(read),
      priority: within(event.getFirstPropertyValue('priority'), 9),
      percent: done ? 100 : percent,
      done,
      doneAt: doneAtOf(completed),
      category: category || null,
    },
    partly: troubles.length ? troubles.join(' ') : null,
  }
}

const meant = ({ uid: _, sequence: __, stamp: ___, zone, doneAt, ...todo }: CalendarTodo) => ({
  ...todo,
  // A day as such is in no zone.
  zone: todo.due === null || todo.dueAllDay ? null : zone,
  doneAt: doneAt === null ? null : Math.floor(doneAt / 1000),
})

/** Whether two to-dos say the same. */
export const sameTodo = (one: CalendarTodo, other: CalendarTodo): boolean => {
  const [first, second] = [meant(one), meant(other)]
  // Where one does not say when it was done, it says nothing against the other.
  const untold = first.doneAt === null || second.doneAt === null
  const known = (todo: ReturnType<typeof meant>) =>
    JSON.stringify(untold ? { ...todo, doneAt: null } : todo, Object.keys(todo).sort())
  return known(first) === known(second)
}

/** A to-do as a VTODO. `stamp` is DTSTAMP. */
export const todoComponent = (todo: CalendarTodo, stamp: Instant): ICAL.Component => {
  const component = new ICAL.Component('vtodo')
  component.addPropertyWithValue('uid', todo.uid)
  component.addPropertyWithValue('dtstamp', utcTime(stamp))
  if (todo.sequence) component.addPropertyWithValue('sequence', todo.sequence)
  component.addPropertyWithValue('summary', todo.title)
  if (todo.note) addNote(component, todo.note)
  if (todo.due !== null)
    component.addProperty(timeProperty('due', todo.due, { zone: todo.zone, allDay: todo.dueAllDay }))
  if (todo.minutes !== null) {
    const property = new ICAL.Property(ESTIMATED)
    property.resetType('duration')
    property.setValue(ICAL.Duration.fromSeconds(todo.minutes * 60))
    component.addProperty(property)
  }
  if (todo.priority) component.addPropertyWithValue('priority', todo.priority)
  if (todo.percent) component.addPropertyWithValue('percent-complete', todo.percent)
  component.addPropertyWithValue(
    'status',
    todo.done ? 'COMPLETED' : todo.percent ? 'IN-PROCESS' : 'NEEDS-ACTION',
  )
  if (todo.doneAt !== null) component.addPropertyWithValue('completed', utcTime(todo.doneAt))
  if (todo.category) component.addPropertyWithValue('categories', todo.category)
  return component
}
