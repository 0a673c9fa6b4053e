import ICAL from 'ical.js'
import { mergeSpans } from '../availability/index.ts'
import type { SeenSpan } from '../sharing/index.ts'
import { oneLine } from '../text/index.ts'
import type { Instant } from '../time/index.ts'
import { newCalendar, textOf } from './write.ts'
import { utcTime } from './zone-component.ts'

const TYPES: Record<string, string> = {
  busy: 'BUSY',
  tentative: 'BUSY-TENTATIVE',
  held: 'BUSY-TENTATIVE',
  away: 'BUSY-UNAVAILABLE',
}
const KINDS = ['BUSY', 'BUSY-UNAVAILABLE', 'BUSY-TENTATIVE']

/** Busy times as a VFREEBUSY (RFC 5545 section 3.6.4) for `[from, to)`: times and nothing else. */
export const writeFreeBusy = (
  spans: readonly SeenSpan[],
  owner: { readonly name: string; readonly address: string },
  from: Instant,
  to: Instant,
  stamp: Instant,
): string => {
  const calendar = newCalendar(null)
  const part = new ICAL.Component('vfreebusy')
  part.addPropertyWithValue('uid', `freebusy-${owner.address}`)
  part.addPropertyWithValue('dtstamp', utcTime(stamp))
  const organizer = new ICAL.Property('organizer')
  organizer.setParameter('cn', oneLine(owner.name))
  organizer.setValue(`mailto:${owner.address}`)
  part.addProperty(organizer)
  part.addPropertyWithValue('dtstart', utcTime(from))
  part.addPropertyWithValue('dtend', utcTime(to))
  // Times of one kind that touch or overlap are one period (RFC 5545 section 3.6.4).
  const periods = KINDS.flatMap((type) =>
    mergeSpans(spans.filter((span) => TYPES[span.state] === type && span.end > from && span.start < to)).map(
      (span) => ({ ...span, type }),
    ),
  )
  for (const { start, end, type } of periods.sort((a, b) => a.start - b.start)) {
    const property = new ICAL.Property('freebusy')
    property.setParameter('fbtype', type)
    property.setValue(
      ICAL.Period.fromData({ start: utcTime(Math.max(from, start)), end: utcTime(Math.min(to, end)) }),
    )
    part.addProperty(property)
  }
  calendar.addSubcomponent(part)
  return textOf(calendar)
}
