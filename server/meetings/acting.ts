import { maySee, standingIn } from '../entries/index.ts'
import type { Sql } from '../platform/database.ts'
import { notFound } from '../platform/problems.ts'

/** Whoever acts in another's name; null for the owner. */
export const actorOf = (askerId: string, ownerId: string): string | null =>
  askerId === ownerId ? null : askerId

/** Throws unless somebody may answer for a person. A stand-in answers what they may see, like everything else they do. */
export const mayAnswerFor = async (
  sql: Sql,
  {
    askerId,
    personId,
    entryId,
    recurrence,
  }: {
    readonly askerId: string
    readonly personId: string
    readonly entryId: string
    readonly recurrence: string | null
  },
  now: number,
): Promise<void> => {
  await standingIn(sql, askerId, personId, now)
  if (personId !== askerId && !(await maySee(sql, entryId, recurrence, personId, askerId, now)))
    throw notFound('invitation')
}
