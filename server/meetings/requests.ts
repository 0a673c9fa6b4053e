import type pg from 'pg'
import {
  datesOfMany,
  lockEntry,
  markCancelled,
  markDateCancelled,
  readMeetings,
  writeOccurrences,
} from '../entries/index.ts'
import { oweLetters } from '../letters/index.ts'
import { addPlaceNotices } from '../notices/index.ts'
import { type Sql, together, transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { meetingChanged, reservationsChanged, tell, timeChanged } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import {
  decideRequests,
  endLapsed,
  lapsedEntries,
  newRequests,
  type PlaceAsked,
  reservedBy,
} from '../reservations/index.ts'

/** Tells the stewards of what is newly requested of their places. */
export const askStewards = async (
  sql: Sql,
  entryId: string,
  actorId: string | null,
  now: number,
): Promise<void> => {
  const asked = await newRequests(sql, entryId)
  if (asked.length === 0) return
  await addPlaceNotices(
    sql,
    entryId,
    asked.map(({ stewardId, place }) => ({ personId: stewardId, kind: 'asked', words: place })),
    actorId,
    now,
  )
  await tell(
    sql,
    meetingChanged(
      entryId,
      asked.map((one) => one.stewardId),
    ),
  )
}

/** Calls off the dates of a reservation alone that have no place left; where there are no others to come, all of it. */
const endBare = async (
  sql: Sql,
  { entryId, ownerId, recurrences }: PlaceAsked,
  words: string,
  now: number,
): Promise<void> => {
  const [meeting] = await readMeetings(sql, [entryId], now)
  if (!meeting || meeting.conference || !meeting.participants.every((one) => one.organizer)) return
  const [own, dates] = await together([reservedBy(sql, entryId), datesOfMany(sql, [entryId])])
  const bare = new Set(recurrences.filter((date) => !own.some((one) => one.recurrence === date)))
  if (bare.size === 0) return
  const goesOn = dates.some((date) => date.end > now && !bare.has(date.recurrence))
  if (meeting.repeats && goesOn)
    for (const recurrence of bare) await markDateCancelled(sql, entryId, recurrence, words)
  else await markCancelled(sql, entryId, ownerId, words, now)
  await writeOccurrences(sql, entryId, now)
}

/** A place is gone from dates of an entry: where nothing else of a reservation is left, they are off. Whoever has it is told. */
export const withoutPlace = async (
  sql: Sql,
  asked: PlaceAsked,
  {
    actorId,
    kind,
    words,
    now,
  }: { actorId: string | null; kind: 'refused' | 'lapsed'; words: string; now: number },
): Promise<void> => {
  const { entryId, ownerId, place } = asked
  await endBare(sql, asked, words, now)
  await addPlaceNotices(
    sql,
    entryId,
    [{ personId: ownerId, kind, words: words ? `${place}: ${words}` : place }],
    actorId,
    now,
  )
  await oweLetters(sql, entryId, { actorId, momentMs: 0, now })
}

/** Grants or refuses what is requested of a place, in one transaction. Throws where there is nothing (left) to decide. */
export const decide = async (
  sql: Sql,
  { entryId, resourceId, stewardId }: { entryId: string; resourceId: string; stewardId: string },
  { grant, words }: { grant: boolean; words: string },
  now: number,
) => {
  await lockEntry(sql, entryId)
  const { found, asked, dates } = await decideRequests(sql, { entryId, resourceId, stewardId }, grant, now)
  if (!found) throw notFound('request to you')
  if (!asked)
    throw new ProblemError(
      409,
      'nothing-asked',
      'That is not asked for any more: it was decided, given back, or it lapsed. Nothing was changed.',
    )
  const { ownerId, place } = asked
  if (grant) {
    await addPlaceNotices(
      sql,
      entryId,
      [{ personId: ownerId, kind: 'granted', words: words ? `${place}: ${words}` : place }],
      stewardId,
      now,
    )
    await oweLetters(sql, entryId, { actorId: stewardId, momentMs: 0, now })
  } else await withoutPlace(sql, asked, { actorId: stewardId, kind: 'refused', words, now })
  await tell(sql, [
    ...timeChanged([ownerId]),
    ...meetingChanged(entryId, [ownerId, stewardId]),
    ...reservationsChanged([resourceId]),
  ])
  return { by: asked.by, place, dates }
}

/** So many requests are let lapse at a time; what is left is there a minute later. */
const MOST_A_MINUTE = 200

/** Lets requests go that nobody decided about in time, and tells those who asked. Every minute. */
export const lapseRequests = async ({
  pool,
  clock,
}: Pick<House, 'clock'> & { readonly pool: pg.Pool }): Promise<void> => {
  const now = clock()
  for (const entryId of await lapsedEntries(pool, now, MOST_A_MINUTE))
    await transaction(pool, async (sql) => {
      await lockEntry(sql, entryId)
      for (const asked of await endLapsed(sql, entryId, now)) {
        const words = 'Nobody decided about it in time.'
        await withoutPlace(sql, asked, { actorId: null, kind: 'lapsed', words, now })
        await tell(sql, [
          ...timeChanged([asked.ownerId]),
          ...meetingChanged(entryId, [asked.ownerId, asked.stewardId ?? asked.ownerId]),
          ...reservationsChanged([asked.resourceId]),
        ])
      }
    })
}
