import { civilOf, type Day, dayFromCivil, dayOf } from '@marmot/core/time'
import { transaction } from '../platform/database.ts'
import { tellHolidays } from '../platform/live.ts'
import type { Deps } from '../platform/router.ts'
import type { HolidaysInput, PublicHoliday } from './public.ts'
import { keepHolidays, sitesBehind } from './store.ts'

/** Public holidays are known so many years ahead, and one back: as far as a series can reach. */
const YEARS_AHEAD = 3

/** Which years of holidays are to be known at an instant, and until which day that is. */
export const yearsAt = (now: number): { fromYear: number; toYear: number; until: Day } => {
  const { year } = civilOf(dayOf(now))
  return {
    fromYear: year - 1,
    toYear: year + YEARS_AHEAD,
    until: dayFromCivil(year + YEARS_AHEAD, 12, 31) ?? dayOf(now),
  }
}

/** Looks up the public holidays of sites that do not know theirs far enough ahead. */
export const settleHolidays = async ({ pool, clock, threads }: Deps): Promise<void> => {
  const { fromYear, toYear, until } = yearsAt(clock())
  for (const site of await sitesBehind(pool, until)) {
    const holidays = await threads.run<HolidaysInput, PublicHoliday[] | null>('readHolidays', {
      region: site.region,
      fromYear,
      toYear,
    })
    await transaction(pool, async (sql) => {
      await keepHolidays(sql, site, holidays ?? [], until)
      await tellHolidays(sql)
    })
  }
}
