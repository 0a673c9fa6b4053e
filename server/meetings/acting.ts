import { maySee, standingIn } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'

/** Whoever acts in another's name; null for the owner. */
export const actorOf = (askerId: string, ownerId: string): string | null =>
  askerId === ownerId ? null : askerId

/** A meeting that somebody acts on. */
interface ActedOn {
  readonly entryId: string
  readonly organizerId: string
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
  try {
    await standingIn(sql, askerId, organizerId, now)
  } catch (error) {
    if (error instanceof ProblemError) return false
    throw error
  }
  return maySee(sql, entryId, null, organizerId, askerId, now)
}

/** Throws, as if there were no such meeting, unless somebody may act on it. */
export const actingOn = async (sql: Sql, meeting: ActedOn, askerId: string, now: number): Promise<void> => {
  if (!(await mayActOn(sql, meeting, askerId, now))) throw notFound('meeting of yours')
}
