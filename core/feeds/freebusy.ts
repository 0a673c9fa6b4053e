import ICAL from 'ical.js'
import type { SeenSpan } from '../sharing/index.ts'
import type { Instant } from '../time/index.ts'
import { newCalendar, textOf } from './write.ts'
import { utcTime } from './zone-component.ts'

const TYPES: Record<string, string> = {
  busy: 'BUSY',
  tentative: 'BUSY-TENTATIVE',
  held: 'BUSY-TENTATIVE',
  away: 'BUSY-UNAVAILABLE',
}

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
  organizer.setParameter('cn', owner.name)
  organizer.setValue(`mailto:${owner.address}`)
  part.addProperty(organizer)
  part.addPropertyWithValue('dtstart', utcTime(from))
  part.addPropertyWithValue('dtend', utcTime(to))
  for (const span of spans) {
    const type = TYPES[span.state]
    if (!type || span.end <= from || span.start >= to) continue
    const property = new ICAL.Property('freebusy')
    property.setParameter('fbtype', type)
    property.setValue(
      ICAL.Period.fromData({
        start: utcTime(Math.max(from, span.start)),
        end: utcTime(Math.min(to, span.end)),
      }),
    )
    part.addProperty(property)
  }
  calendar.addSubcomponent(part)
  return textOf(calendar)
}
