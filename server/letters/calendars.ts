import { type CalendarMethod, calendarText, type MeetingMessage } from '@marmot/core/letters'
import type { Threads, ThreadWork } from '../platform/threads.ts'

/** The calendar part of a letter, before it is text. */
export interface CalendarPart {
  readonly message: MeetingMessage
  readonly method: CalendarMethod
}

/** Writes a calendar part where it holds nobody up. */
export const writeCalendar: ThreadWork<CalendarPart, string> = async ({ message, method }) =>
  calendarText(message, method)

/** A calendar part with more attendees than this, counted in each of its dates, is written in a thread: 200 take 6 ms. */
const MOST_HERE = 200

const attendees = ({ participants, series }: MeetingMessage): number =>
  participants.length * (1 + (series?.changes.length ?? 0))

/** Writes the calendar parts of several letters; what is the same in some of them is written once for all. */
export const calendarWriter = (threads: Pick<Threads, 'run'>): ((part: CalendarPart) => Promise<string>) => {
  const written = new Map<string, Promise<string>>()
  const write = async (part: CalendarPart): Promise<string> =>
    attendees(part.message) > MOST_HERE
      ? threads.run<CalendarPart, string>('writeCalendar', part)
      : calendarText(part.message, part.method)
  return (part) => {
    const key = JSON.stringify(part)
    const text = written.get(key) ?? write(part)
    written.set(key, text)
    return text
  }
}
