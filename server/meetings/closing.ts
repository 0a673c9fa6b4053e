import { randomUUID } from 'node:crypto'
import type { closePlace, Hit, lookAtClosure } from '@marmot/contract/closures'
import type { Resource } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { instantText, spanInWords, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import {
  datesOfMany,
  datesToMake,
  isReservation,
  lockEntry,
  markDateCancelled,
  nextVersion,
  noteAsked,
  readMeetings,
  timeOrProblem,
  writeOccurrences,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { addPlaceNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { meetingChanged, placesChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import {
  type HitReservation,
  hitsOf,
  likesFor,
  lockResources,
  MOST_HIT,
  movePlaces,
  reservedBy,
} from '../reservations/index.ts'
import { addClosures, likeOnes, placeOfSteward } from '../resources/index.ts'
import { withoutPlace } from './requests.ts'

type Closing = Omit<z.output<(typeof lookAtClosure)['body']>, 'reason'>

/** The spans of a closure: those of them that are not over. */
const spansOf = (closing: Closing, now: number): Span[] => {
  timeOrProblem(closing)
  return datesToMake({ ...closing, places: [] }, now).map((date) => date.span)
}

/** What is hit. Throws where it is more than anybody would go through: none of it is to be passed over. */
const allHit = async (sql: Sql, resourceId: string, spans: readonly Span[], now: number) => {
  const hits = await hitsOf(sql, resourceId, spans, now)
  if (hits.length <= MOST_HIT) return hits
  throw new ProblemError(
    422,
    'too-many-hit',
    `It would hit more than ${MOST_HIT} reservations. Close it for a shorter time, one after the other. Nothing was changed.`,
    { fields: [{ path: 'minutes', message: 'hits too many reservations' }] },
  )
}

const hitOnWire = (hit: HitReservation, likes: Hit['likes']): Hit => ({
  reservationId: hit.id,
  by: hit.by,
  purpose: hit.purpose,
  meeting: hit.meeting,
  headCount: hit.headCount,
  start: instantText(hit.start),
  end: instantText(hit.end),
  likes,
})

/** What a closure would hit, with other places for each. Throws unless the place is looked after by whoever asks. */
export const lookAtHits = async (
  sql: Sql,
  resourceId: string,
  stewardId: string,
  closing: Closing,
  now: number,
): Promise<Hit[]> => {
  const place = await placeOfSteward(sql, resourceId, stewardId, now)
  const hits = await allHit(sql, resourceId, spansOf(closing, now), now)
  const likes = await likesFor(sql, place, hits, stewardId, now)
  return hits.map((hit) => hitOnWire(hit, likes.get(hit.id) ?? []))
}

/** Moves the place of one date of somebody's to another, or gives it up, and tells them. */
const exchange = async (
  sql: Sql,
  hit: HitReservation,
  {
    place,
    to,
    reason,
    stewardId,
    now,
  }: { place: Resource; to: Resource | null; reason: string; stewardId: string; now: number },
): Promise<string[]> => {
  const { entryId, recurrence, ownerId } = hit
  const [own, dates] = await together([reservedBy(sql, entryId), datesOfMany(sql, [entryId])])
  const date = dates.find((one) => one.recurrence === recurrence)
  if (!date) return []
  const placeIds = own
    .filter((one) => one.recurrence === recurrence && one.resourceId !== place.id)
    .map((one) => one.resourceId)
  const wanted = {
    dates: [
      {
        recurrence,
        span: { start: date.start, end: date.end },
        placeIds: to ? [...placeIds, to.id] : placeIds,
      },
    ],
    askerId: ownerId,
    viewerId: stewardId,
    zone: place.zone,
  }
  const concerned = await movePlaces(sql, wanted, entryId, now, recurrence)
  await nextVersion(sql, entryId)
  await noteAsked(sql, entryId)
  const when = spanInWords(date.start, date.end, zoneTable(place.zone), now)
  if (to) {
    await addPlaceNotices(
      sql,
      entryId,
      [
        {
          personId: ownerId,
          kind: 'moved',
          words: `${to.name} instead of ${place.name}, ${when}: ${reason}`,
        },
      ],
      stewardId,
      now,
    )
    await oweLetters(sql, entryId, { actorId: stewardId, momentMs: 0, now })
  } else {
    const [meeting] = await readMeetings(sql, [entryId], now)
    const asked = { entryId, resourceId: place.id, place: place.name, ownerId, by: hit.by, stewardId }
    const words = `closed ${when}: ${reason}`
    const alone = meeting?.participants.every((one) => one.organizer) && !meeting.conference
    // Of a series that is nothing but its places, a date that has none of them left is off.
    if (meeting && alone && meeting.repeats && isReservation(meeting) && placeIds.length === 0) {
      await markDateCancelled(sql, entryId, recurrence, words)
      await writeOccurrences(sql, entryId, now)
    }
    if (meeting && (isReservation(meeting) || !meeting.participants.every((one) => one.organizer))) {
      await addPlaceNotices(
        sql,
        entryId,
        [{ personId: ownerId, kind: 'refused', words: `${place.name}, ${words}` }],
        stewardId,
        now,
      )
      await oweLetters(sql, entryId, { actorId: stewardId, momentMs: 0, now })
    } else await withoutPlace(sql, asked, { actorId: stewardId, kind: 'refused', words, now })
  }
  return concerned
}

const entriesIn = (hits: readonly HitReservation[]): string[] =>
  [...new Set(hits.map((hit) => hit.entryId))].sort()

/**
 * Closes a place, in one transaction: each reservation that it hits goes where it was said, or is given up. Throws where one has
 * come since it was looked at, or another place cannot be had any more; nothing has changed then.
 */
export const close = async (
  sql: Sql,
  resourceId: string,
  stewardId: string,
  { moves, reason, ...closing }: z.output<(typeof closePlace)['body']>,
  now: number,
): Promise<{ closureId: string; moved: number; given: number }> => {
  const place = await placeOfSteward(sql, resourceId, stewardId, now)
  const spans = spansOf(closing, now)
  // In one order with whoever changes what is hit: the entries first, then all places that are concerned. What has come
  // meanwhile was not seen, and is refused below.
  for (const entryId of entriesIn(await allHit(sql, resourceId, spans, now))) await lockEntry(sql, entryId)
  await lockResources(sql, [resourceId, ...moves.flatMap((one) => one.to ?? [])].sort())
  const hits = await allHit(sql, resourceId, spans, now)
  const where = new Map(moves.map((one) => [one.reservationId, one.to]))
  const unseen = hits.filter((hit) => !where.has(hit.id))
  if (unseen.length > 0)
    throw new ProblemError(
      409,
      'more-hit',
      `${unseen.length === 1 ? `Meanwhile ${unseen[0]?.by} has reserved it, too` : 'Meanwhile others have reserved it, too'}. Look at all of them, and close it then. Nothing was changed.`,
    )
  const closureId = randomUUID()
  await addClosures(sql, { resourceId, setId: closureId, stewardId, reason, spans }, now)
  const alike = await likeOnes(sql, stewardId, now, [resourceId])
  const concerned: string[] = [resourceId]
  let moved = 0
  for (const hit of hits) {
    const to = where.get(hit.id) ?? null
    const other = to === null ? null : (alike.find((one) => one.id === to && one.id !== resourceId) ?? null)
    if (to !== null && !other) throw notFound('place to move it to')
    concerned.push(...(await exchange(sql, hit, { place, to: other, reason, stewardId, now })))
    if (to) moved++
  }
  const people = [...new Set(hits.map((hit) => hit.ownerId))]
  await tell(sql, [
    ...timeChanged(people),
    ...hits.flatMap((hit) => meetingChanged(hit.entryId, [hit.ownerId])),
    ...placesChanged([resourceId]),
    ...reservationsChanged(concerned),
  ])
  return { closureId, moved, given: hits.length - moved }
}
