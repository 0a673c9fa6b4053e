import { detailFor, type Looking, NO_LEVEL } from '@marmot/core/sharing'
import type { Sql } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { levelsFor } from '../sharing/index.ts'

/** How somebody looks at an owner's entry: by which level, and whether they own it or take part in it. */
export const lookingAt = async (
  sql: Sql,
  askerId: string,
  ownerId: string,
  entryId: string | null,
  now: number,
): Promise<Looking> => {
  const levels = await levelsFor(sql, askerId, [ownerId], now)
  const part =
    entryId === null
      ? null
      : await sql.query('select 1 from participant where entry_id = $1 and person_id = $2', [
          entryId,
          askerId,
        ])
  return {
    level: levels.get(ownerId) ?? NO_LEVEL,
    owns: askerId === ownerId,
    participates: (part?.rowCount ?? 0) > 0,
  }
}

/**
 * Throws unless somebody may act in an owner's calendar. Who may not see everything of it gets no hint whether there
 * is such a person.
 */
export const actingFor = async (
  sql: Sql,
  askerId: string,
  ownerId: string,
  now: number,
): Promise<Looking> => {
  const looking = await lookingAt(sql, askerId, ownerId, null, now)
  if (looking.owns) return looking
  if (looking.level.sees !== 'everything') throw notFound('calendar')
  return looking
}

export const mayNotChange = (owner: string): ProblemError =>
  new ProblemError(
    403,
    'may-not-change',
    `${owner} lets you see this, but not change it. Nothing was changed; ask ${owner} to share more.`,
  )

/** Throws unless somebody is another's stand-in (or that person): only a stand-in answers and sends in another's name. */
export const standingIn = async (sql: Sql, askerId: string, ownerId: string, now: number): Promise<void> => {
  if (askerId === ownerId) return
  const looking = await actingFor(sql, askerId, ownerId, now)
  if (looking.level.does !== 'stand-in')
    throw new ProblemError(
      403,
      'no-stand-in',
      'Only a stand-in answers and sends in somebody else’s name. Nothing was sent.',
    )
}

/** Whether somebody is another's stand-in, or that person. */
export const mayStandIn = async (
  sql: Sql,
  askerId: string,
  ownerId: string,
  now: number,
): Promise<boolean> => {
  try {
    await standingIn(sql, askerId, ownerId, now)
    return true
  } catch (error) {
    if (error instanceof ProblemError) return false
    throw error
  }
}

/**
 * Whether somebody who looks at a participant's lane may see all of an entry on it: of the one date that is named, else
 * of every date. A date can be private by itself.
 */
export const maySee = async (
  sql: Sql,
  entryId: string,
  recurrence: string | null,
  laneOf: string,
  askerId: string,
  now: number,
): Promise<boolean> => {
  const rows = await sql.query<{ private: boolean }>(
    `select coalesce(v.private, e.private) or ($3::timestamp is null and exists (
              select 1 from override w where w.entry_id = e.id and w.private)) as private
       from entry e join participant p on p.entry_id = e.id and p.person_id = $2
       left join override v on v.entry_id = e.id and v.recurrence = $3
      where e.id = $1 and e.deleted_at is null`,
    [entryId, laneOf, recurrence],
  )
  const [entry] = rows.rows
  if (!entry) return false
  const looking = await lookingAt(sql, askerId, laneOf, null, now)
  return detailFor(entry, looking) === 'everything'
}

/** A meeting that somebody acts on. */
interface ActedOn {
  readonly entryId: string
  /** Null where somebody outside organizes it: nobody here acts on it. */
  readonly organizerId: string | null
}

/**
 * Whether somebody organizes a meeting, or stands in for whoever does and may see all of its dates: none is read or changed
 * without the words of the others.
 */
export const mayActOn = async (
  sql: Sql,
  { entryId, organizerId }: ActedOn,
  askerId: string,
  now: number,
): Promise<boolean> => {
  if (organizerId === null || !(await mayStandIn(sql, askerId, organizerId, now))) return false
  return maySee(sql, entryId, null, organizerId, askerId, now)
}

/** Throws, as if there were no such meeting, unless somebody may act on it. */
export const actingOn = async (sql: Sql, meeting: ActedOn, askerId: string, now: number): Promise<void> => {
  if (!(await mayActOn(sql, meeting, askerId, now))) throw notFound('meeting of yours')
}

/** An entry that is to be changed: the one date that is meant, or all of them without. */
export interface Apart {
  readonly entryId: string
  readonly recurrence: string | null
}

/**
 * The dates, by their ids, that stand in nobody's way because they are what is to be changed: none of an entry that the
 * asker may not change.
 */
export const datesApart = async (
  sql: Sql,
  apart: readonly Apart[],
  askerId: string,
  now: number,
): Promise<string[]> => {
  const dates: string[] = []
  for (const { entryId, recurrence } of apart) {
    const rows = await sql.query<{ id: string; organizerId: string | null }>(
      `select o.id, case when e.organizer_address is null then e.owner_id end as "organizerId" from entry e join occurrence o on o.entry_id = e.id
        where e.id = $1 and o.gone_at is null and ($2::timestamp is null or o.recurrence = $2)`,
      [entryId, recurrence],
    )
    const [first] = rows.rows
    if (first && (await mayActOn(sql, { entryId, organizerId: first.organizerId }, askerId, now)))
      dates.push(...rows.rows.map((row) => row.id))
  }
  return dates
}
