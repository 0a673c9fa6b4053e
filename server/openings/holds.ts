import type { Span } from '@marmot/core/availability'
import {
  firstDatesOfKept,
  insertEntries,
  isEntry,
  lockHold,
  lockLapsed,
  removeEntries,
  SINGLE,
  writeFirstDates,
} from '../entries/index.ts'
import { at, endMs, msSql, type Sql, startMs, together, transaction } from '../platform/database.ts'
import { tellReservations, tellTime } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import type { Deps } from '../platform/router.ts'
import { findPlaces, forgetOfEntries, takePlaces } from '../reservations/index.ts'

/** A time of somebody's own, and places, kept until an instant. */
export interface Hold {
  readonly id: string
  readonly askerId: string
  readonly title: string
  readonly starts: string
  readonly minutes: number
  readonly zone: string
  readonly places: readonly string[]
  readonly span: Span
  readonly until: number
}

/**
 * Takes a hold of somebody's away, with its places, and gives those. A hold that is gone, or was somebody else's, is
 * nothing: what should not be there is not.
 */
export const dropHold = async (sql: Sql, holdId: string, askerId: string): Promise<string[]> => {
  if (!(await lockHold(sql, holdId, askerId))) return []
  const places = await forgetOfEntries(sql, [holdId])
  await removeEntries(sql, [holdId])
  return places
}

/**
 * Keeps a hold: the time as an entry that lapses, the places as held reservations. The same hold again moves it; should
 * a place be taken, the transaction fails and the hold stands as it was. Gives every place concerned.
 */
export const keepHold = async (sql: Sql, hold: Hold, now: number): Promise<string[]> => {
  // The same hold twice at once is one after the other: there is no row yet that the second could wait for.
  await sql.query("select pg_advisory_xact_lock(hashtextextended('hold ' || $1, 0))", [hold.id])
  const before = await dropHold(sql, hold.id, hold.askerId)
  const { askerId, places: placeIds, span, starts: recurrence } = hold
  const wanted = { dates: [{ placeIds, span, recurrence }], askerId, viewerId: askerId, zone: hold.zone }
  await findPlaces(sql, wanted, now)
  if (await isEntry(sql, hold.id)) throw notFound('hold of yours')
  const entry = {
    ...SINGLE,
    id: hold.id,
    title: hold.title || 'Held while I decide',
    starts: hold.starts,
    minutes: hold.minutes,
    zone: hold.zone,
    shows: 'held' as const,
    lapsesAt: at(hold.until),
  }
  await together([
    insertEntries(sql, askerId, [entry], now),
    writeFirstDates(sql, firstDatesOfKept(hold.id, entry, [], now)),
    takePlaces(sql, wanted, hold.id, now),
  ])
  return [...new Set([...before, ...hold.places])]
}

/** A hold of somebody's, while it lasts. */
export const findHold = async (sql: Sql, holdId: string, askerId: string, now: number) =>
  (
    await sql.query<{ start: number; end: number; until: number; places: string[] }>(
      `select ${startMs('o.span')} as start, ${endMs('o.span')} as end,
              ${msSql('e.lapses_at')} as until,
              array(select r.resource_id from reservation r where r.occurrence_id = o.id and r.state = 'held') as places
         from entry e join occurrence o on o.entry_id = e.id and o.gone_at is null
        where e.id = $1 and e.owner_id = $2 and e.lapses_at > $3`,
      [holdId, askerId, at(now)],
    )
  ).rows[0] ?? null

/** Those of some holds that have not lapsed. */
export const holdsStanding = async (
  sql: Sql,
  holdIds: readonly string[],
  now: number,
): Promise<Set<string>> =>
  new Set(
    (
      await sql.query<{ id: string }>('select id from entry where id = any($1) and lapses_at > $2', [
        holdIds,
        at(now),
      ])
    ).rows.map((row) => row.id),
  )

/** Takes away the holds that lapsed, and says so to whoever looks at those lanes. Every minute. */
export const letHoldsGo = async ({ pool, clock }: Pick<Deps, 'pool' | 'clock'>): Promise<void> => {
  await transaction(pool, async (sql) => {
    const lapsed = await lockLapsed(sql, clock())
    if (lapsed.length === 0) return
    const ids = lapsed.map((hold) => hold.id)
    const places = await forgetOfEntries(sql, ids)
    await removeEntries(sql, ids)
    await tellTime(sql, [...new Set(lapsed.map((hold) => hold.ownerId))])
    await tellReservations(sql, places)
  })
}
