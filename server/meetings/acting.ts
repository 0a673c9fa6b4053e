import { maySee, standingIn } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'

/** Whoever acts in another's name; null for the owner. */
export const actorOf = (askerId: string, ownerId: string): string | null =>
  askerId === ownerId ? null : askerId

/**
 * Throws, as if there were no such meeting, unless somebody organizes it, or stands in for whoever does and may see what
 * is meant of it: one date, or all without `recurrence`.
 */
export const actingOn = async (
  sql: Sql,
  meeting: { readonly entryId: string; readonly organizerId: string; readonly recurrence: string | null },
  askerId: string,
  now: number,
): Promise<void> => {
  const { entryId, organizerId, recurrence } = meeting
  await standingIn(sql, askerId, organizerId, now).catch(() => {
    throw notFound('meeting of yours')
  })
  if (!(await maySee(sql, entryId, recurrence, organizerId, askerId, now))) throw notFound('meeting of yours')
}
