import type { Hit } from '@marmot/contract/closures'
import { type Resource, reservableOf } from '@marmot/contract/resources'
import type { Span } from '@marmot/core/availability'
import { type Holding, likes, type RunPlace } from '@marmot/core/reservations'
import { DAY } from '@marmot/core/time'
import { isMeetingSql } from '../entries/index.ts'
import { at, endMs, type Sql, startMs, wallSql } from '../platform/database.ts'
import { likeOnes, readResources } from '../resources/index.ts'
import { instantsOf } from './holding.ts'
import { multirange, readReservations } from './store.ts'

/** A reservation that something of its place concerns. */
export interface HitReservation extends Span {
  readonly id: string
  readonly entryId: string
  readonly recurrence: string
  readonly ownerId: string
  readonly by: string
  readonly purpose: string
  readonly meeting: boolean
  readonly headCount: number | null
  /** How many take part, at the least. */
  readonly people: number
}

/** One with where it is, and whether it is neither a hold nor a request. */
export interface StandingReservation extends HitReservation {
  readonly resourceId: string
  readonly taken: boolean
}

/** So many are looked at in one act; one more is asked for, to know that there are more. */
export const MOST_HIT = 500

const HIT = `select r.id, r.resource_id as "resourceId", r.state = 'taken' as taken,
              o.entry_id as "entryId", ${wallSql('o.recurrence')} as recurrence, r.person_id as "ownerId", w.name as by,
              e.purpose, ${isMeetingSql('e')} as meeting, e.head_count as "headCount",
              (select count(*)::integer from participant m where m.entry_id = e.id) as people,
              ${startMs('r.span')} as start, ${endMs('r.span')} as end
         from reservation r join occurrence o on o.id = r.occurrence_id join entry e on e.id = o.entry_id
         join person w on w.id = r.person_id`

/** What is reserved of a place in some spans, and not over, in order. */
export const hitsOf = async (
  sql: Sql,
  resourceId: string,
  spans: readonly Span[],
  now: number,
): Promise<HitReservation[]> =>
  (
    await sql.query<HitReservation>(
      `${HIT}
        where r.resource_id = $1 and r.state <> 'released' and r.span && $2::tstzmultirange and upper(r.span) > $3
          and (r.lapses_at is null or r.lapses_at > $3)
        order by lower(r.span), r.id limit ${MOST_HIT + 1}`,
      [resourceId, multirange(spans), at(now)],
    )
  ).rows

/** What stands at some places and touches a span, turnaround counted: whether it is taken for good, by whom, and for how many. */
export const standingAt = async (
  sql: Sql,
  resourceIds: readonly string[],
  span: Span,
  now: number,
): Promise<StandingReservation[]> =>
  (
    await sql.query<StandingReservation>(
      `${HIT}
        where r.resource_id = any($1) and r.state <> 'released' and r.blocked && tstzrange($2, $3)
          and (r.lapses_at is null or r.lapses_at > $4)
        order by lower(r.span), r.id`,
      [resourceIds, at(span.start), at(span.end), at(now)],
    )
  ).rows

/** Reservations by their ids, as they stand now; what was given back is left out. */
export const standingOf = async (sql: Sql, ids: readonly string[]): Promise<StandingReservation[]> =>
  (await sql.query<StandingReservation>(`${HIT} where r.id = any($1) and r.state <> 'released'`, [ids])).rows

/** Other places for what is hit of one, for each by its id, the most alike first: such as whoever has it may take. */
export const likesFor = async (
  sql: Sql,
  place: Resource,
  hits: readonly HitReservation[],
  viewerId: string,
  now: number,
): Promise<Map<string, Hit['likes']>> => {
  const found = new Map<string, Hit['likes']>()
  if (hits.length === 0) return found
  const ids = (await likeOnes(sql, viewerId, now, [place.id])).map((one) => one.id)
  const around = hits.map(({ start, end }) => ({ start: start - DAY, end: end + DAY }))
  const taken = new Map<string, Holding[]>()
  for (const one of await readReservations(sql, viewerId, around, now, ids))
    taken.set(one.resourceId, [...(taken.get(one.resourceId) ?? []), instantsOf(one)])
  for (const ownerId of new Set(hits.map((hit) => hit.ownerId))) {
    // Whose reservation it is may take other places than whoever looks after this one.
    const resources = await readResources(sql, ownerId, now, ids)
    const places = resources.map(
      (one): RunPlace => ({ ...one, ...reservableOf(one), taken: taken.get(one.id) ?? [] }),
    )
    const wanted = places.find((one) => one.id === place.id)
    for (const hit of hits)
      if (wanted && hit.ownerId === ownerId)
        found.set(
          hit.id,
          likes(wanted, places, hit, { seats: hit.headCount ?? hit.people, now }).map(
            ({ place: { id, name, seats }, lacks }) => ({ id, name, seats, lacks: [...lacks] }),
          ),
        )
  }
  return found
}
