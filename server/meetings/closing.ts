import { randomUUID } from 'node:crypto'
import type { closePlace, Hit, lookAtClosure } from '@marmot/contract/closures'
import type { Span } from '@marmot/core/availability'
import { instantText } from '@marmot/core/time'
import type { z } from 'zod'
import { datesToMake, lockEntry, timeOrProblem } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import { meetingChanged, placesChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { type HitReservation, hitsOf, likesFor, lockResources, MOST_HIT } from '../reservations/index.ts'
import { addClosures, likeOnes, placeOfSteward } from '../resources/index.ts'
import { putElsewhere } from './elsewhere.ts'

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
  const hit = entriesIn(await allHit(sql, resourceId, spans, now))
  for (const entryId of hit) await lockEntry(sql, entryId)
  await lockResources(sql, [resourceId, ...moves.flatMap((one) => one.to ?? [])], hit)
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
    concerned.push(...(await putElsewhere(sql, hit, { place, to: other, reason, actorId: stewardId, now })))
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
