import {
  exportReservations,
  listOfReservations,
  lookAtRun,
  readFill,
  type SeenDate,
} from '@marmot/contract/reservations'
import { listReservations, lookAtRules, putRules, readRules } from '@marmot/contract/resources'
import { DAY, dayOf, wallFromText, zoneTable } from '@marmot/core/time'
import { datesApart, datesToMake, standingIn, timeOrProblem } from '../entries/index.ts'
import { type Sql, transaction } from '../platform/database.ts'
import { placesChanged, tell } from '../platform/live.ts'
import { ProblemError } from '../platform/problems.ts'
import { readIds, readRange } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { lockRules, placeOfSteward, resourceIds } from '../resources/index.ts'
import type { Listed } from './csv.ts'
import { fillOfDays } from './fill.ts'
import { listReservationsFor } from './listing.ts'
import { type Looked, lookAtDates, MOST_HERE, timesOf } from './looking.ts'
import { setRules } from './rules.ts'
import { readReservations } from './store.ts'

/** What is reserved of every place in this time is as much as anybody looks at. */
const MOST_OF_ALL = 35 * DAY
/** More lines than this are no list any more. */
const MOST_EXPORTED = 20_000

export const reservationsRoutes = ({ mount, deps }: Routes): void => {
  mount(listReservations, async ({ query, asker }) => {
    const { from: start, to: end } = readRange(query)
    const { sites, kinds, places } = query
    const some = sites === undefined && places === undefined ? null : readIds(sites ?? '')
    if (!some && end - start > MOST_OF_ALL)
      throw new ProblemError(
        422,
        'range-too-long',
        'What is reserved of every place is read for five weeks at most. Name some places, or take a shorter time.',
      )
    const ids =
      some &&
      (await resourceIds(deps.pool, {
        sites: some,
        kinds: (kinds ?? '').split(','),
        places: readIds(places ?? ''),
      }))
    const now = deps.clock()
    const { apart: entryId, apartDate: recurrence = null } = query
    const apart = entryId ? await datesApart(deps.pool, [{ entryId, recurrence }], asker.id, now) : []
    const reserved = await readReservations(
      deps.pool,
      asker.id,
      [{ start, end }],
      now,
      ids ?? undefined,
      null,
      apart,
    )
    return { reservations: reserved }
  })

  mount(readFill, async ({ query }) => {
    const { first: day, days, zone, kind = null } = query
    timeOrProblem({ starts: `${day}T00:00`, minutes: 1, zone, allDay: false })
    const first = dayOf(wallFromText(`${day}T00:00`) ?? 0)
    return { fill: await fillOfDays(deps.pool, { first, days, zone: zoneTable(zone), kind }) }
  })

  mount(listOfReservations, async ({ query, asker }) => {
    const { from, to } = readRange(query)
    return listReservationsFor(deps.pool, asker.id, { ...query, from, to }, deps.clock())
  })

  mount(exportReservations, async ({ query, asker, context }) => {
    const { from, to } = readRange(query)
    const listing = { ...query, from, to, first: 0, many: MOST_EXPORTED }
    const listed: Listed = { askerId: asker.id, listing, now: deps.clock() }
    context.attachment('reservations.csv')
    context.type = 'text/csv; charset=utf-8'
    context.body = await deps.threads.run<Listed, string>('listOfReservations', listed)
    return {}
  })

  mount(readRules, ({ params, asker }) =>
    transaction(deps.pool, async (sql) => {
      const place = await placeOfSteward(sql, params.resourceId, asker.id, deps.clock())
      return { rules: place.rules, ...(await lockRules(sql, params.resourceId)) }
    }),
  )

  mount(lookAtRules, async ({ params, body, asker }) => {
    const look = (sql: Sql) => setRules(sql, params.resourceId, asker.id, body, deps.clock())
    return transaction(deps.pool, look, { rehearsed: true })
  })

  mount(putRules, ({ params, body, asker }) =>
    transaction(deps.pool, async (sql) => {
      const { version } = await setRules(sql, params.resourceId, asker.id, body, deps.clock())
      await tell(sql, placesChanged([params.resourceId]))
      return { version }
    }),
  )

  mount(lookAtRun, async ({ body, asker }) => {
    const now = deps.clock()
    timeOrProblem(body)
    const ownerId = body.of ?? asker.id
    await standingIn(deps.pool, asker.id, ownerId, now)
    const dates = datesToMake(body, now)
    const looked = { dates, ownerId, viewerId: asker.id, zone: body.zone, seats: body.headCount ?? 0, now }
    const seen =
      timesOf(looked) > MOST_HERE
        ? await deps.threads.run<Looked, SeenDate[]>('lookAtRun', looked)
        : await lookAtDates(deps.pool, looked)
    return { dates: seen }
  })
}
