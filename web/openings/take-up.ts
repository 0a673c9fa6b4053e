import { type Brief, emptyBrief } from '@marmot/contract/briefs'
import type { Meeting } from '@marmot/contract/meetings'
import { textOfNote } from '@marmot/core/entries'
import { dayOf, minutesBetween, toWall, type ZoneTable } from '@marmot/core/time'

/** How long the window goes on after the day of the meeting, in days. */
const AFTER = 8

/**
 * A meeting that was sent as what is to be arranged anew: its people, its places, its length and its time, from today until
 * some days after it. Of a series it is one date.
 */
export const briefOf = (meeting: Meeting, today: number, zone: ZoneTable): Brief => {
  const start = Date.parse(meeting.start)
  const minutes = minutesBetween(start, Date.parse(meeting.end))
  const organizer = meeting.participants.find((one) => one.organizer)
  const fresh = emptyBrief(today, organizer?.personId ?? '')
  return {
    ...fresh,
    title: meeting.title,
    note: textOfNote(meeting.note),
    agenda: '',
    minutes,
    people: meeting.participants.flatMap(({ personId, required }) =>
      personId ? [{ id: personId, required, group: null }] : [],
    ),
    guests: meeting.participants.flatMap(({ personId, address, name, required }) =>
      personId ? [] : [{ address, name: name === address ? '' : name, required }],
    ),
    toDay: Math.max(fresh.toDay, dayOf(toWall(zone, start)) + AFTER),
    places: meeting.places.map((place) => place.id),
    start,
    meeting: {
      entryId: meeting.entryId,
      recurrence: meeting.recurrence,
      version: meeting.version,
      organizerId: organizer?.personId ?? '',
      title: meeting.title,
      start,
      minutes,
    },
  }
}
