import { z } from 'zod'
import { day, id, route } from './route.ts'

/** So many days at most are off at one time, and are told of at once. */
export const MOST_OFF_DAYS = 366
/** So many days, or runs of them, a site can have of its own that are still to come. */
export const MOST_OWN_DAYS = 400
export const MOST_SITE_DAYS = 5000

const said = {
  first: day,
  /** Counts, too. */
  last: day,
  name: z.string().trim().min(1, 'is missing').max(120),
  /** Whether nobody gets in, so that its places cannot be had either. */
  shut: z.boolean(),
}

/** A day off of a site, or several in a row. */
export const siteDay = z.object({
  ...said,
  id,
  siteId: id,
  kind: z.enum(['holiday', 'closed']),
  /** Whether its day is not certain before the moon is seen. */
  uncertain: z.boolean(),
  version: z.number(),
})
export type SiteDay = z.infer<typeof siteDay>

/** How a site goes by holidays. */
export const siteHolidays = z.object({
  siteId: id,
  /** By whose public holidays it goes: a country, or a part of one ("AT-7"); null where that was not said. */
  region: z.string().nullable(),
  /** Until when they are known. */
  until: z.iso.date().nullable(),
  /** Whether the asker may change its days. */
  mayChange: z.boolean(),
})
export type SiteHolidays = z.infer<typeof siteHolidays>

export const listSiteDays = route({
  method: 'GET',
  path: '/api/site-days',
  summary:
    'Days off of every site: public holidays and its own, from the last months on; and on which of them I work.',
  who: 'person',
  answer: () =>
    z.object({
      sites: z.array(siteHolidays),
      days: z.array(siteDay),
      worked: z.array(z.iso.date()),
    }),
})

const inOrder = ({ first, last }: { first: string; last: string }) => first <= last
const wrongOrder = { path: ['last'], message: 'is before the first day' }
const short = ({ first, last }: { first: string; last: string }) =>
  Date.parse(last) - Date.parse(first) < MOST_OFF_DAYS * 86_400_000
const tooLong = { path: ['last'], message: 'is more than a year later' }

export const addSiteDay = route({
  method: 'POST',
  path: '/api/site-days',
  summary: 'Add days on which a site is closed.',
  who: 'person',
  repeatable: true,
  body: () =>
    z
      .object({ ...said, siteId: id })
      .refine(inOrder, wrongOrder)
      .refine(short, tooLong),
  /** How many reservations of its places stand then, where nobody gets in. */
  answer: () => z.object({ day: siteDay, reservations: z.number() }),
})

export const changeSiteDay = route({
  method: 'PUT',
  path: '/api/site-days/:dayId',
  summary:
    'Change days off of a site as they were at `version`; of a public holiday only whether nobody gets in.',
  who: 'person',
  params: () => z.object({ dayId: id }),
  body: () =>
    z
      .object({ ...said, version: z.number().int() })
      .refine(inOrder, wrongOrder)
      .refine(short, tooLong),
  answer: () => z.object({ day: siteDay, reservations: z.number() }),
})

export const deleteSiteDay = route({
  method: 'DELETE',
  path: '/api/site-days/:dayId',
  summary: 'Take away a day off of a site: it works then.',
  who: 'person',
  params: () => z.object({ dayId: id }),
})

export const restoreSiteDay = route({
  method: 'POST',
  path: '/api/site-days/:dayId/restore',
  summary: 'Bring back a day off of a site that was taken away.',
  who: 'person',
  params: () => z.object({ dayId: id }),
  answer: () => siteDay,
})

export const setWorked = route({
  method: 'PUT',
  path: '/api/site-days/worked/:day',
  summary: 'Say whether I work on a day off of my site.',
  who: 'person',
  params: () => z.object({ day }),
  body: () => z.object({ works: z.boolean() }),
})

export const listRegions = route({
  method: 'GET',
  path: '/api/holiday-regions',
  summary: 'Countries, and parts of them, whose public holidays are known.',
  who: 'person',
  answer: () => z.object({ regions: z.array(z.object({ code: z.string(), name: z.string() })) }),
})

export const setRegion = route({
  method: 'PUT',
  path: '/api/sites/:siteId/holidays',
  summary: 'Say by whose public holidays a site goes; by none, with null.',
  who: 'person',
  params: () => z.object({ siteId: id }),
  body: () => z.object({ region: z.string().max(12).nullable() }),
})

export const exportSiteDays = route({
  method: 'GET',
  path: '/api/sites/:siteId/holidays/file',
  summary: 'A site’s days off as iCalendar.',
  who: 'person',
  answersFile: true,
  params: () => z.object({ siteId: id }),
})
