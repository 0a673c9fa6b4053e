import { type Looking, NO_LEVEL } from '@marmot/core/sharing'
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
