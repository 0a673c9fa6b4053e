import {
  agreeToHost,
  deleteVisitKind,
  deleteVisitPage,
  listVisitPages,
  listVisits,
  makeOnceLink,
  putVisitKind,
  putVisitPage,
} from '@marmot/contract/visit-pages'
import { DAY } from '@marmot/core/time'
import { keepLink } from '../links/index.ts'
import { transaction } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import { agree, dropKind, dropPage, keepKind, keepPage, linesFor, ownPage, pagesFor } from './keeping.ts'
import { kindOf } from './store.ts'

/** A link that works once lasts so long. */
const ONCE_LASTS = 90 * DAY

/** What staff say of their pages, and what became of the visits. */
export const visitPagesRoutes = ({ mount, deps }: Pick<Routes, 'mount' | 'deps'>): void => {
  const { pool, clock } = deps

  mount(listVisitPages, async ({ asker }) => pagesFor(pool, asker.id))

  mount(putVisitPage, async ({ params, body, asker }) => {
    await transaction(pool, (sql) => keepPage(sql, params.pageId, body, asker.id, clock()))
    return {}
  })

  mount(deleteVisitPage, async ({ params, asker }) => {
    await transaction(pool, (sql) => dropPage(sql, params.pageId, asker.id, clock()))
    return {}
  })

  mount(putVisitKind, async ({ params, body, asker }) => {
    await transaction(pool, (sql) => keepKind(sql, params, body, asker.id, clock()))
    return {}
  })

  mount(deleteVisitKind, async ({ params, asker }) => {
    await transaction(pool, (sql) => dropKind(sql, params, asker.id, clock()))
    return {}
  })

  mount(agreeToHost, async ({ params, body, asker }) => {
    await transaction(pool, (sql) => agree(sql, params.kindId, asker.id, body.agree, clock()))
    return {}
  })

  mount(makeOnceLink, async ({ params, body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        await ownPage(sql, params.pageId, asker.id)
        const kind = await kindOf(sql, params.kindId)
        if (kind?.pageId !== params.pageId) throw notFound('kind of meeting of yours')
        if (!kind.terms.byLinkOnly)
          throw new ProblemError(
            422,
            'open-to-all',
            'This kind of meeting is open to all: its address is enough. Make it one that is had by links alone first.',
          )
        const now = clock()
        const link = { purpose: 'visit' as const, subjectId: kind.id, token: body.secret }
        await keepLink(sql, { ...link, expires: now + ONCE_LASTS }, now)
        return {}
      }),
    ),
  )

  mount(listVisits, async ({ asker }) => ({ visits: await linesFor(pool, asker.id, clock()) }))
}
