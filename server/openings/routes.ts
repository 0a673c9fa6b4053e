import { PassThrough } from 'node:stream'
import { setImmediate } from 'node:timers/promises'
import {
  deleteTemplate,
  findOpenings,
  listTemplates,
  putHold,
  putTemplate,
  readBalance,
  readHold,
  releaseHold,
  type Template,
} from '@marmot/contract/openings'
import { answering, BadBrief, type Progress } from '@marmot/core/openings'
import { timeOrProblem } from '../entries/index.ts'
import { at, transaction } from '../platform/database.ts'
import { tellReservations, tellTime } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { readIds } from '../platform/read.ts'
import type { Routes } from '../platform/router.ts'
import { dropHold, findHold, keepHold } from './holds.ts'
import { BALANCE_WEEKS, prepareSearch, readBalanceOf } from './search.ts'

const MOST_TEMPLATES = 100
/** A hold lasts so many days at most: who needs it longer makes the meeting. */
const LONGEST_HOLD_MS = 14 * 86_400_000
/** Progress is told no oftener than this, in milliseconds. */
const TELL_EVERY = 100

/** What a line says; the contract's schema of it is checked where it is read. */
type Line = Progress | { readonly refused: { readonly code: string; readonly detail: string } }

export const openingsRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(findOpenings, async ({ body, asker, context }) => {
    const stream = new PassThrough()
    context.type = 'application/x-ndjson'
    context.body = stream
    let stopped = false
    context.res.on('close', () => (stopped = true))
    const tell = (line: Line) => stream.write(`${JSON.stringify(line)}\n`)
    const work = async () => {
      const { search, knownTo } = await prepareSearch(pool, asker, body.brief, clock())
      const steps = answering(search, asker.id, knownTo)
      let told = 0
      while (!stopped) {
        const { done, value } = steps.next()
        if (done) {
          tell({ share: 1, answer: value })
          return
        }
        if (performance.now() - told > TELL_EVERY) {
          tell(value)
          told = performance.now()
        }
        // Others are answered between two steps, and a caller who went away is noticed.
        await setImmediate()
      }
    }
    work()
      .catch((error) =>
        tell({
          refused:
            error instanceof BadBrief
              ? { code: error.code, detail: error.message }
              : {
                  code: 'unforeseen',
                  detail: 'Something went wrong on our side. Nothing was found yet; try again.',
                },
        }),
      )
      .finally(() => stream.end())
    return {}
  })

  mount(readBalance, async ({ query, asker }) => ({
    weeks: BALANCE_WEEKS,
    people: await readBalanceOf(pool, asker.id, readIds(query.people), clock()),
  }))

  mount(listTemplates, async ({ asker }) => {
    const rows = await pool.query<Omit<Template, 'usedAt'> & { usedAt: Date }>(
      `select id, name, brief, used_at as "usedAt" from brief_template where person_id = $1
        order by used_at desc limit $2`,
      [asker.id, MOST_TEMPLATES],
    )
    return { templates: rows.rows.map((row) => ({ ...row, usedAt: row.usedAt.toISOString() })) }
  })

  mount(putTemplate, async ({ params, body, asker }) => {
    const usedAt = at(clock())
    const kept = await pool.query(
      `insert into brief_template (id, person_id, name, brief, used_at) values ($1, $2, $3, $4, $5)
       on conflict (id) do update set name = excluded.name, brief = excluded.brief, used_at = excluded.used_at
         where brief_template.person_id = $2`,
      [params.templateId, asker.id, body.name, JSON.stringify(body.brief), usedAt],
    )
    if (!kept.rowCount) throw notFound('template of yours')
    return { id: params.templateId, name: body.name, brief: body.brief, usedAt }
  })

  mount(deleteTemplate, async ({ params, asker }) => {
    const gone = await pool.query('delete from brief_template where id = $1 and person_id = $2', [
      params.templateId,
      asker.id,
    ])
    if (!gone.rowCount) throw notFound('template of yours')
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
