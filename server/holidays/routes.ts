import {
  addSiteDay,
  changeSiteDay,
  deleteSiteDay,
  exportSiteDays,
  listRegions,
  listSiteDays,
  MOST_OWN_DAYS,
  MOST_SITE_DAYS,
  restoreSiteDay,
  type SiteDay,
  setRegion,
  setWorked,
} from '@marmot/contract/holidays'
import { type CalendarEntry, entryOf, writeCalendar } from '@marmot/core/feeds'
import { DAY, dayOf, MINUTE } from '@marmot/core/time'
import { type Sql, transaction } from '../platform/database.ts'
import { tellHolidays, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { lockedSiteDay, mayChangeSite } from './checks.ts'
import { settleHolidays } from './keeping.ts'
import type { Region } from './public.ts'
import {
  countOwnDays,
  countReservations,
  insertClosed,
  lockSite,
  putRegion,
  putWorked,
  readSiteDay,
  readSiteDays,
  readSites,
  readWorked,
  setSiteDayDeleted,
  updateSiteDay,
} from './store.ts'

/** What was stays in the list for so many days. */
const LATELY = 60

/** A day off as it goes out: whole days that take one's time. */
const calendarDay = ({ id, first, last, name }: SiteDay, zone: string): CalendarEntry =>
  entryOf({
    uid: id,
    zone,
    starts: Date.parse(first),
    minutes: (Date.parse(last) + DAY - Date.parse(first)) / MINUTE,
    allDay: true,
    title: name,
    shows: 'away',
  })

export const holidaysRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock, threads } = deps

  const change = <T>(work: (sql: Sql) => Promise<T>): Promise<T> =>
    transaction(pool, async (sql) => {
      const done = await work(sql)
      await tellHolidays(sql)
      return done
    })
  const asIs = async (sql: Sql, dayId: string) => {
    const found = await readSiteDay(sql, dayId)
    if (!found) throw notFound('day off')
    const { deleted: _, ...day } = found
    return day
  }
  const standing = async (sql: Sql, day: { siteId: string; first: string; last: string; shut: boolean }) =>
    day.shut ? countReservations(sql, day.siteId, day, clock()) : 0

  mount(listSiteDays, async ({ asker }) => {
    const from = dayOf(clock()) - LATELY
    return {
      sites: await readSites(pool, asker.id),
      days: await readSiteDays(pool, from, MOST_SITE_DAYS),
      worked: await readWorked(pool, asker.id, from),
    }
  })

  mount(addSiteDay, ({ body, asker, context }) =>
    change((sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        await mayChangeSite(sql, body.siteId, asker.id)
        if ((await countOwnDays(sql, body.siteId, dayOf(clock()))) >= MOST_OWN_DAYS)
          throw new ProblemError(
            422,
            'too-many-days',
            `A site can have ${MOST_OWN_DAYS} days of its own that are still to come. Days that follow one another are one.`,
          )
        const day = await asIs(sql, await insertClosed(sql, body.siteId, body))
        return { day, reservations: await standing(sql, day) }
      }),
    ),
  )

  mount(changeSiteDay, ({ params, body, asker }) =>
    change(async (sql) => {
      const kept = await lockedSiteDay(sql, params.dayId, asker.id)
      if (kept.version !== body.version)
        throw new ProblemError(
          409,
          'stale',
          `${kept.name} was changed meanwhile. Nothing of yours was lost: look at it again.`,
          { more: { version: kept.version, newest: kept } },
        )
      if (
        kept.kind === 'holiday' &&
        (kept.first !== body.first || kept.last !== body.last || kept.name !== body.name)
      )
        throw new ProblemError(
          422,
          'public-holiday',
          'A public holiday is what it is. Take it away where the site works then, or add days of its own.',
        )
      await updateSiteDay(sql, kept.id, body)
      const day = await asIs(sql, kept.id)
      return { day, reservations: await standing(sql, day) }
    }),
  )

  mount(deleteSiteDay, ({ params, asker }) =>
    change(async (sql) => {
      const { id } = await lockedSiteDay(sql, params.dayId, asker.id)
      await setSiteDayDeleted(sql, id, true, clock())
      return {}
    }),
  )

  mount(restoreSiteDay, ({ params, asker }) =>
    change(async (sql) => {
      const { id } = await lockedSiteDay(sql, params.dayId, asker.id, true)
      await setSiteDayDeleted(sql, id, false, clock())
      return asIs(sql, id)
    }),
  )

  mount(setWorked, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      if (!(await putWorked(sql, asker.id, params.day, body.works)))
        throw new ProblemError(422, 'no-day-off', 'That day is no day off of your site.')
      // Only their own time is another than it was.
      await tellTime(sql, [asker.id])
      return {}
    }),
  )

  mount(listRegions, async () => ({ regions: await threads.run<object, Region[]>('readRegions', {}) }))

  mount(setRegion, async ({ params, body, asker }) => {
    if (body.region !== null) {
      const regions = await threads.run<object, Region[]>('readRegions', {})
      if (!regions.some((one) => one.code === body.region))
        throw new ProblemError(422, 'unknown-region', 'The public holidays of that place are not known.', {
          fields: [{ path: 'region', message: 'is not known' }],
        })
    }
    await change(async (sql) => {
      const site = await lockSite(sql, params.siteId)
      if (!site) throw notFound('site')
      await mayChangeSite(sql, params.siteId, asker.id)
      if (site.region !== body.region) await putRegion(sql, params.siteId, body.region)
    })
    await settleHolidays(deps)
    return {}
  })

  mount(exportSiteDays, async ({ params, context }) => {
    const site = await lockSite(pool, params.siteId)
    if (!site) throw notFound('site')
    const days = await readSiteDays(pool, dayOf(clock()) - LATELY, MOST_SITE_DAYS, params.siteId)
    context.set('content-type', 'text/calendar; charset=utf-8')
    context.set('content-disposition', 'attachment; filename="days-off.ics"')
    context.body = writeCalendar(
      days.map((day) => calendarDay(day, site.zone)),
      `Days off in ${site.name}`,
      clock(),
    )
    return {}
  })
}
