import { emptyBrief } from '@marmot/contract/briefs'
import { LATER_DAYS } from '@marmot/contract/openings'
import {
  type Asked,
  answering,
  MOST_PEOPLE,
  type SearchBrief,
  searchOpenings,
  USUAL_RULES,
} from '@marmot/core/openings'
import { DAY } from '@marmot/core/time'
import type pg from 'pg'
import { prepareSearch } from '../server/openings/search.ts'
import { readLanes } from '../server/openings/store.ts'
import { ADDRESS } from './large.ts'
import { best, met } from './measuring.ts'

const WEEK = 7 * DAY
const ROUNDS = 15
/** So many of the people are required; the others are counted. */
const REQUIRED = 6
const FETCH_BUDGET = 1.5
const SLOT_BUDGET = 100
const SEARCH_BUDGET_MS = 2
const STEP_BUDGET_MS = 50

const at = (ms: number) => new Date(ms).toISOString()

/** The bare fetch of the busy rows that a search rests on: what no program could do without. */
const bareFetch = (pool: pg.Pool, ids: readonly string[], from: number, to: number) =>
  pool.query(
    `select person_id, lower(span), upper(span), answer from attendance
      where person_id = any($1) and span && tstzrange($2, $3)`,
    [ids, at(from), at(to)],
  )

/** The plain query that tries each start: for how many of them is nobody busy. */
const eachSlot = (pool: pg.Pool, ids: readonly string[], from: number, to: number) =>
  pool.query(
    `select count(*) from generate_series($2::timestamptz, $3::timestamptz - interval '1 hour', interval '15 minutes') s
      where not exists (select 1 from attendance a where a.person_id = any($1)
                          and a.span && tstzrange(s, s + interval '1 hour'))`,
    [ids, at(from), at(to)],
  )

interface Size {
  readonly people: number
  readonly weeks: number
  readonly step: number
}

const briefOf = (people: readonly Asked[], now: number, size: Size): SearchBrief => ({
  people: people.slice(0, size.people),
  minutes: 60,
  from: now,
  to: now + size.weeks * WEEK,
  step: size.step,
  zone: 'Europe/Vienna',
  now,
  rules: USUAL_RULES,
})

/** As many people as a brief can hold, by their ids: the asker first. */
export const manyPeople = async (pool: pg.Pool): Promise<string[]> => {
  const chosen = await pool.query<{ id: string }>(
    'select id from person order by address = $2 desc, id limit $1',
    [MOST_PEOPLE, ADDRESS],
  )
  return chosen.rows.map((row) => row.id)
}

/** The longest step of a search that has to find several rooms on each of many sites: so long a thread hears nothing. */
const measureSteps = async (pool: pg.Pool, ids: readonly string[], now: number): Promise<boolean> => {
  const passed: boolean[] = []
  for (const count of [4, 8]) {
    const brief = {
      ...emptyBrief(now / DAY, ids[0] ?? ''),
      people: ids.slice(0, 200).map((id, i) => ({ id, required: i < REQUIRED, group: null })),
      toDay: now / DAY + 28,
      needs: [{ kind: 'room' as const, siteId: null, least: 1, count, seats: 4, features: {} }],
    }
    const { search, knownTo } = await prepareSearch(pool, { id: ids[0] ?? '' }, brief, now)
    const sites = new Set(search.people.map((one) => one.siteId)).size
    let [longest, steps] = [0, 0]
    const begin = performance.now()
    const work = answering(search, ids[0] ?? '', knownTo)
    for (;;) {
      const start = performance.now()
      const { done } = work.next()
      longest = Math.max(longest, performance.now() - start)
      steps++
      if (done) break
    }
    passed.push(longest <= STEP_BUDGET_MS)
    console.log(
      `${count} rooms on each site    longest step ${longest.toFixed(1)} ms, at most ${STEP_BUDGET_MS}: ${met(longest <= STEP_BUDGET_MS)}; ${(performance.now() - begin).toFixed(0)} ms in ${steps} steps   (200 people on ${sites} sites, 4 weeks, ${search.places?.all.length ?? 0} places)`,
    )
  }
  return passed.every(Boolean)
}

/**
 * The search on the large demo: against the bare fetch of the same rows, against the query that tries each start, alone,
 * and how its cost grows. Gives whether every budget was met.
 */
export const measureOpenings = async (pool: pg.Pool, ids: readonly string[]): Promise<boolean> => {
  const middle = await pool.query<{ now: number }>(
    'select (extract(epoch from max(created_at)) * 1000)::float8 as now from entry',
  )
  const now = Math.floor((middle.rows[0]?.now ?? 0) / DAY) * DAY + DAY
  const asker = ids[0] ?? ''
  const askedFor = async (size: Size): Promise<Asked[]> => {
    const some = ids.slice(0, size.people)
    const lanes = await readLanes(
      pool,
      asker,
      some,
      { from: now, to: now + size.weeks * WEEK, apart: [] },
      now,
    )
    return some.flatMap((id, i) => {
      const lane = lanes.get(id)
      return lane ? [{ id, required: i < REQUIRED, time: lane.time }] : []
    })
  }
  const spansOf = (people: readonly Asked[]) => people.reduce((sum, one) => sum + one.time.spans.length, 0)
  const passed: boolean[] = []

  for (const size of [
    { people: 12, weeks: 4, step: 15 },
    { people: 200, weeks: 8, step: 15 },
  ]) {
    const some = ids.slice(0, size.people)
    const to = now + size.weeks * WEEK
    const people = await askedFor(size)
    const whole = await best(ROUNDS, async () => searchOpenings(briefOf(await askedFor(size), now, size)))
    const bare = await best(ROUNDS, () => bareFetch(pool, some, now, to))
    passed.push(whole <= FETCH_BUDGET * bare)
    console.log(
      `openings, ${size.people} people       ${whole.toFixed(1)} ms from the database to the answer; bare fetch ${bare.toFixed(1)} ms; ${(whole / bare).toFixed(2)} to 1, at most ${FETCH_BUDGET}: ${met(whole <= FETCH_BUDGET * bare)}   (${size.weeks} weeks, ${size.step}-minute steps, ${spansOf(people)} busy spans)`,
    )
    if (size.people > 12) continue
    // Of the whole window it would take minutes: one day is measured, and counted for each of them.
    const days = size.weeks * 7
    const slots = days * (await best(1, () => eachSlot(pool, some, now, now + DAY)))
    passed.push(slots >= SLOT_BUDGET * whole)
    console.log(
      `each start by SQL       ${slots.toFixed(0)} ms; ${(slots / whole).toFixed(0)} to 1, at least ${SLOT_BUDGET}: ${met(slots >= SLOT_BUDGET * whole)}`,
    )
  }

  const large = { people: 200, weeks: 8, step: 5 }
  // What a search holds: its window, and the weeks after it from which a later window is offered.
  const brief = briefOf(await askedFor({ ...large, weeks: large.weeks + LATER_DAYS / 7 }), now, large)
  const alone = await best(100, () => searchOpenings(brief))
  passed.push(alone <= SEARCH_BUDGET_MS)
  console.log(
    `the search alone        ${alone.toFixed(2)} ms, at most ${SEARCH_BUDGET_MS}: ${met(alone <= SEARCH_BUDGET_MS)}   (200 people, 8 weeks, 5-minute steps, ${spansOf(brief.people)} spans)`,
  )
  passed.push(await measureSteps(pool, ids, now))
  const people = await askedFor({ ...large, people: MOST_PEOPLE, weeks: 26 })
  for (const count of [5, 20, 50, 100, 200, 500]) {
    const size = { people: count, weeks: 8, step: 5 }
    const ms = await best(15, () => searchOpenings(briefOf(people, now, size)))
    console.log(
      `  growth, ${String(count).padStart(3)} people     ${ms.toFixed(2)} ms   (8 weeks, 5-minute steps)`,
    )
  }
  for (const weeks of [1, 2, 4, 8, 16, 26]) {
    const size = { people: 50, weeks, step: 5 }
    const ms = await best(15, () => searchOpenings(briefOf(people, now, size)))
    console.log(
      `  growth, ${String(weeks).padStart(3)} weeks      ${ms.toFixed(2)} ms   (50 people, 5-minute steps)`,
    )
  }
  return passed.every(Boolean)
}
