import type { Resource } from '@marmot/contract/resources'
import { spanInWords, zoneTable } from '@marmot/core/time'
import { datesOfMany, nextVersion, noteAsked } from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { addPlaceNotices } from '../notices/index.ts'
import { type Sql, together } from '../platform/database.ts'
import { type HitReservation, movePlaces, reservedBy } from '../reservations/index.ts'
import { withoutPlace } from './requests.ts'

/** Moves the place of one date of somebody's to another, or gives it up, and tells them; gives the places concerned. */
export const putElsewhere = async (
  sql: Sql,
  hit: HitReservation,
  {
    place,
    to,
    reason,
    actorId,
    now,
  }: { place: Resource; to: Resource | null; reason: string; actorId: string; now: number },
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
    viewerId: actorId,
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
      actorId,
      now,
    )
    await oweLetters(sql, entryId, { actorId: actorId, momentMs: 0, now })
  } else {
    const asked = {
      entryId,
      resourceId: place.id,
      place: place.name,
      ownerId,
      by: hit.by,
      stewardId: actorId,
      recurrences: [recurrence],
    }
    const words = `closed ${when}: ${reason}`
    await withoutPlace(sql, asked, { actorId, kind: 'refused', words, now })
  }
  return concerned
}
