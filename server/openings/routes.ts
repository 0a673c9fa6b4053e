import { PassThrough } from 'node:stream'
import {
  deleteTemplate,
  findOpenings,
  listTemplates,
  putHold,
  putTemplate,
  readBalance,
  readHold,
  releaseHold,
} from '@marmot/contract/openings'
import { timeOrProblem } from '../entries/index.ts'
import { at, transaction } from '../platform/database.ts'
import { tellReservations, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import type { Routes } from '../platform/router.ts'
import { dropHold, findHold, keepHold } from './holds.ts'
import { BALANCE_WEEKS, readBalanceOf } from './search.ts'
import type { SearchInput } from './searching.ts'
import { keepTemplate, removeTemplate, templatesOf } from './templates.ts'

/** A hold lasts so many days at most: who needs it longer makes the meeting. */
const LONGEST_HOLD_MS = 14 * 86_400_000
/** A search of the largest size takes a few seconds. */
const MOST_SEARCH_MS = 120_000

export const openingsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock, threads } = deps

  mount(findOpenings, async ({ body, asker, context }) => {
    const stream = new PassThrough()
    context.type = 'application/x-ndjson'
    context.body = stream
    const left = new AbortController()
    context.res.on('close', () => left.abort())
    const input: SearchInput = { askerId: asker.id, brief: body.brief, now: clock() }
    const UNFORESEEN = {
      code: 'unforeseen',
      detail: 'Something went wrong on our side. Nothing was found yet; try again.',
    }
    threads
      .run<SearchInput, string>('search', input, {
        stop: left.signal,
        signal: AbortSignal.timeout(MOST_SEARCH_MS),
        told: (line) => stream.write(String(line)),
      })
      .then((last) => stream.write(last))
      .catch((error) => {
        const refused =
          error instanceof ProblemError ? { code: error.code, detail: error.detail } : UNFORESEEN
        stream.write(`${JSON.stringify({ refused })}\n`)
      })
      .finally(() => stream.end())
    return {}
  })

  mount(readBalance, async ({ body, asker }) => ({
    weeks: BALANCE_WEEKS,
    people: await readBalanceOf(pool, asker.id, body.people, clock()),
  }))

  mount(listTemplates, async ({ asker }) => {
    return { templates: await templatesOf(pool, asker.id) }
  })

  mount(putTemplate, async ({ params, body, asker }) => {
    const usedAt = at(clock())
    const template = { id: params.templateId, name: body.name, brief: body.brief, usedAt }
    if (!(await keepTemplate(pool, asker.id, template))) throw notFound('template of yours')
    return template
  })

  mount(deleteTemplate, async ({ params, asker }) => {
    if (!(await removeTemplate(pool, params.templateId, asker.id))) throw notFound('template of yours')
    return {}
  })

  mount(putHold, async ({ params, body, asker }) => {
    const now = clock()
    const span = timeOrProblem(body)
    const until = Date.parse(body.until)
    const refuse = (path: string, message: string, detail: string) =>
      new ProblemError(422, 'bad-hold', detail, { fields: [{ path, message }] })
    if (span.end <= now)
      throw refuse('starts', 'is in the past', 'That time is over. Choose one that is still to come.')
    if (until <= now) throw refuse('until', 'is in the past', 'The hold would have lapsed already.')
    if (until - now > LONGEST_HOLD_MS)
      throw refuse('until', 'is too far ahead', 'A time can be held for two weeks at most.')
    const places = await transaction(pool, async (sql) => {
      const touched = await keepHold(sql, { ...body, id: params.holdId, askerId: asker.id, span, until }, now)
      await tellTime(sql, [asker.id])
      await tellReservations(sql, touched)
      return touched
    })
    return { holdId: params.holdId, until: at(until), places }
  })

  mount(readHold, async ({ params, asker }) => {
    const hold = await findHold(pool, params.holdId, asker.id, clock())
    if (!hold) throw notFound('hold of yours')
    return {
      holdId: params.holdId,
      start: at(hold.start),
      end: at(hold.end),
      places: hold.places,
      until: at(hold.until),
    }
  })

  mount(releaseHold, async ({ params, asker }) => {
    await transaction(pool, async (sql) => {
      await tellReservations(sql, await dropHold(sql, params.holdId, asker.id))
      await tellTime(sql, [asker.id])
    })
    return {}
  })
}
