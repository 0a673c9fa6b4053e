import type { Span } from '@marmot/core/availability'
import { insertEntry, writeFirstDates } from '../entries/index.ts'
import { at, endMs, msSql, type Sql, startMs, together, transaction } from '../platform/database.ts'
import { tellReservations, tellTime } from '../platform/live.ts'
import { notFound } from '../platform/problems.ts'
import type { Deps } from '../platform/router.ts'
import { findPlaces, releaseOfEntry, takePlaces } from '../reservations/index.ts'

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
  const own = await sql.query(
    'select 1 from entry where id = $1 and owner_id = $2 and lapses_at is not null for update',
    [holdId, askerId],
  )
  if (!own.rowCount) return []
  const places = await releaseOfEntry(sql, holdId)
  await sql.query('delete from entry where id = $1', [holdId])
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
  const there = await sql.query('select 1 from entry where id = $1', [hold.id])
  if (there.rowCount) throw notFound('hold of yours')
  const entry = {
    title: hold.title || 'Held while I decide',
    starts: hold.starts,
    minutes: hold.minutes,
    zone: hold.zone,
    note: '',
    place: '',
    allDay: false,
    rule: null,
    added: [],
    excepted: [],
    shows: 'held' as const,
    private: false,
  }
  await together([
    insertEntry(sql, askerId, entry, now, hold.id),
    sql.query('update entry set lapses_at = $2 where id = $1', [hold.id, at(hold.until)]),
    writeFirstDates(sql, hold.id, entry, [], now),
    takePlaces(sql, wanted, hold.id, hold.until),
  ])
  return [...new Set([...before, ...hold.places])]
}

/** A hold of somebody's, while it lasts. */
export const findHold = async (sql: Sql, holdId: string, askerId: string, now: number) =>
  (
    await sql.query<{ start: number; end: number; until: number; places: string[] }>(
      `select ${startMs('o.span')} as start, ${endMs('o.span')} as end,
              ${msSql('e.lapses_at')} as until,
              array(select r.resource_id from reservation r where r.entry_id = e.id and r.state = 'held') as places
         from entry e join occurrence o on o.entry_id = e.id
        where e.id = $1 and e.owner_id = $2 and e.lapses_at > $3`,
      [holdId, askerId, at(now)],
    )
  ).rows[0] ?? null

/** Takes away the holds that lapsed, and says so to whoever looks at those lanes. Every minute. */
export const letHoldsGo = async ({ pool, clock }: Pick<Deps, 'pool' | 'clock'>): Promise<void> => {
  await transaction(pool, async (sql) => {
    const lapsed = await sql.query<{ id: string; owner_id: string }>(
      'select id, owner_id from entry where lapses_at <= $1 for update skip locked',
      [at(clock())],
    )
    if (!lapsed.rowCount) return
    const ids = lapsed.rows.map((row) => row.id)
    const places = await sql.query<{ resource_id: string }>(
      'select distinct resource_id from reservation where entry_id = any($1)',
      [ids],
    )
    await sql.query('delete from entry where id = any($1)', [ids])
    await tellTime(sql, [...new Set(lapsed.rows.map((row) => row.owner_id))])
    await tellReservations(
      sql,
      places.rows.map((row) => row.resource_id),
    )
  })
}
