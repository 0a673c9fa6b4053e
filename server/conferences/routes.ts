import {
  dismissCall,
  joinMeeting,
  listCalls,
  readRecord,
  reportSeat,
  seatReport,
} from '@marmot/contract/conferences'
import { presentAt } from '../entries/index.ts'
import { transaction } from '../platform/database.ts'
import type { House } from '../platform/house.ts'
import { tellCalls } from '../platform/live.ts'
import { invalid, notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { joinAs, recordAt, serviceOf, takeReport } from './joining.ts'
import { isSigned } from './service.ts'
import { callsFor, endCall } from './store.ts'

export const conferencesRoutes = ({ mount, deps }: Routes, house: House): void => {
  const { pool, clock } = deps

  mount(readRecord, async ({ params, query, asker }) =>
    recordAt(pool, await presentAt(pool, { ...params, ...query }, { personId: asker.id }, clock()), clock()),
  )

  mount(joinMeeting, async ({ params, body, asker }) => {
    const present = await presentAt(pool, { ...params, ...body }, { personId: asker.id }, clock())
    return { link: await joinAs(house, pool, present, asker.name, clock()) }
  })

  mount(listCalls, async ({ asker }) => ({
    calls: (await callsFor(pool, asker.id, clock())).map((one) => ({ ...one, at: one.at.toISOString() })),
  }))

  mount(dismissCall, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      if (!(await endCall(sql, params.callId, asker.id, clock()))) throw notFound('call')
      await tellCalls(sql, [asker.id])
      return {}
    }),
  )

  mount(reportSeat, async ({ raw, context }) => {
    if (!isSigned(serviceOf(house), raw, context.get('x-signature')))
      throw new ProblemError(403, 'not-signed', 'This was not signed by the conference service.')
    const text: unknown = (() => {
      try {
        return JSON.parse(raw.toString('utf8'))
      } catch {
        return null
      }
    })()
    const report = seatReport.safeParse(text)
    if (!report.success) throw invalid(report.error)
    await transaction(pool, (sql) => takeReport(sql, report.data, clock()))
    return {}
  })
}
