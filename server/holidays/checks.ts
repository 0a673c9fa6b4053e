import type { SiteDay } from '@marmot/contract/holidays'
import type { Sql } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readSiteDay, readSites } from './store.ts'

/** Throws unless somebody may change the days of a site. */
export const mayChangeSite = async (sql: Sql, siteId: string, askerId: string): Promise<void> => {
  const site = (await readSites(sql, askerId)).find((one) => one.siteId === siteId)
  if (!site) throw notFound('site')
  if (!site.mayChange)
    throw new ProblemError(
      403,
      'not-your-site',
      'A site’s days off are kept by whoever looks after its places. Ask one of them.',
    )
}

/** A day off that somebody may change, locked; deleted ones where they are asked for. */
export const lockedSiteDay = async (
  sql: Sql,
  dayId: string,
  askerId: string,
  deleted = false,
): Promise<SiteDay> => {
  const kept = await readSiteDay(sql, dayId, true)
  if (!kept || kept.deleted !== deleted) throw notFound('day off')
  await mayChangeSite(sql, kept.siteId, askerId)
  const { deleted: _, ...day } = kept
  return day
}
