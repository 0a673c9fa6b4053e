import ICAL from 'ical.js'
import { newCalendar, textOf, utcTime, zoneComponent, zonedProperty } from '../feeds/index.ts'
import type { Answer } from '../sharing/index.ts'
import { HOUR, type Instant, instantOf, type Wall, zoneTable } from '../time/index.ts'
import { personProperty } from './calendar.ts'

/** What one of ours sends back to whoever organizes a meeting elsewhere. Instants in milliseconds. */
export interface SentBack {
  readonly uid: string
  readonly sequence: number
  readonly stamp: Instant
  readonly title: string
  readonly organizer: { readonly name: string; readonly address: string }
  readonly attendee: { readonly name: string; readonly address: string }
  /** The one date of a series that it is for, on the wall of the meeting’s zone. */
  readonly date: { readonly recurrence: Wall; readonly zone: string } | null
  readonly comment: string
  readonly said:
    | { readonly answer: Answer; readonly delegate: string | null }
    | { readonly start: Instant; readonly end: Instant }
}

/** The iTIP REPLY to an invitation from outside, or the COUNTER that proposes another time (RFC 5546 sections 3.2.3, 3.2.7). */
export const sentBackText = (back: SentBack): string => {
  const counter = 'start' in back.said
  const calendar = newCalendar(null)
  calendar.addPropertyWithValue('method', counter ? 'COUNTER' : 'REPLY')
  const { date, said } = back
  if (date) {
    const at = instantOf(zoneTable(date.zone), date.recurrence)
    calendar.addSubcomponent(zoneComponent(date.zone, at - HOUR, at + HOUR, false))
  }
  const event = new ICAL.Component('vevent')
  event.addPropertyWithValue('uid', back.uid)
  event.addPropertyWithValue('sequence', back.sequence)
  event.addPropertyWithValue('dtstamp', utcTime(back.stamp))
  if (date) event.addProperty(zonedProperty('recurrence-id', date.recurrence, date.zone))
  if ('start' in said) {
    event.addPropertyWithValue('dtstart', utcTime(said.start))
    event.addPropertyWithValue('dtend', utcTime(said.end))
  }
  event.addPropertyWithValue('summary', back.title)
  event.addProperty(personProperty('organizer', back.organizer))
  const attendee = personProperty('attendee', back.attendee)
  attendee.setParameter('partstat', 'answer' in said ? said.answer.toUpperCase() : 'TENTATIVE')
  if ('answer' in said && said.delegate) attendee.setParameter('delegated-to', `mailto:${said.delegate}`)
  event.addProperty(attendee)
  if (back.comment) event.addPropertyWithValue('comment', back.comment)
  calendar.addSubcomponent(event)
  return textOf(calendar)
}
