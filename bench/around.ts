import { randomUUID } from 'node:crypto'
import { emptyBrief } from '@marmot/contract/briefs'
import type { Page } from '@playwright/test'
import { startWeatherStandIn } from '../standins/weather/server.ts'
import { ADDRESS, type Large } from './large.ts'
import { median, met, timed } from './measuring.ts'
import { until } from './screen.ts'

const NOW = Date.parse('2026-11-23T08:12:00Z')
const WEEK = 'from=2026-12-07T00:00:00Z&to=2026-12-14T00:00:00Z'
const ROUNDS = 40
const WEEK_BUDGET = 1.2
const RAIN_BUDGET = 1.5
const LIST_BUDGET = 100
const [TODOS, CONTACTS] = [2000, 5000]
/** As many as somebody has to do in a full week. */
const FEW = 25

const todosOf = (large: Large, many: number) =>
  large.pool.query(
    `insert into todo (owner_id, title, note, due, due_all_day, zone, minutes, priority, created_at, changed_at, uid)
     select p.id, 'Measured ' || n, '', timestamp '2026-12-07 00:00' + (n % 7) * interval '1 day', true, 'Europe/Vienna', 30,
            n % 10, $3, $3, gen_random_uuid()::text
       from person p, generate_series(1, $2::integer) n where p.address = $1`,
    [ADDRESS, many, new Date(NOW)],
  )

const contactsOf = (large: Large, many: number) =>
  large.pool.query(
    `with made as (
       insert into contact (person_id, uid, name, organisation, made_by, created_at, changed_at)
       select p.id, 'measured ' || n, 'Guest ' || md5(n::text), 'House ' || n % 50, 'hand', $3, $3
         from person p, generate_series(1, $2::integer) n where p.address = $1 returning id, person_id, uid)
     insert into contact_address (contact_id, person_id, address, place)
     select id, person_id, replace(uid, ' ', '.') || '@lodestar.example', 0 from made`,
    [ADDRESS, many, new Date(NOW)],
  )

const forget = async (large: Large): Promise<void> => {
  await large.pool.query("delete from todo where title like 'Measured %'")
  await large.pool.query("delete from contact where uid like 'measured %'")
  await large.pool.query("delete from entry where title like 'Measured outing'")
}

const alternately = async (one: () => Promise<unknown>, other: () => Promise<unknown>) => {
  const [ones, others]: [number[], number[]] = [[], []]
  await one()
  await other()
  for (let i = 0; i < ROUNDS; i++) {
    ones.push(await timed(one))
    others.push(await timed(other))
  }
  return [median(ones), median(others)] as const
}

/** Has forecasts, holidays and a few to-dos of Ilse's in the large demo. */
const furnish = async (large: Large): Promise<string> => {
  const session = (await (await large.ask('/api/session')).json()) as { person: { siteId: string } }
  const { siteId } = session.person
  await large.send('PUT', `/api/sites/${siteId}/holidays`, { region: 'AT-7' })
  await large.pool.query(
    'delete from day_worked where person_id in (select id from person where address = $1)',
    [ADDRESS],
  )
  const weather = await startWeatherStandIn({ port: 0, now: () => NOW })
  const said = await (
    await fetch(`http://localhost:${weather.port}/forecast?latitude=47&longitude=11`)
  ).json()
  await weather.stop()
  const { issued, hours } = said as { issued: string; hours: Record<string, unknown>[] }
  await large.pool.query(
    `insert into forecast (site_id, asked_at, issued_at, hours) values ($1, $2, $3, $4)
     on conflict (site_id) do update set issued_at = excluded.issued_at, hours = excluded.hours`,
    [
      siteId,
      new Date(NOW),
      issued,
      JSON.stringify(
        hours.map(({ time, precipitation, probability, ...hour }) => ({
          ...hour,
          at: Date.parse(String(time)),
          rain: precipitation,
          chance: probability,
        })),
      ),
    ],
  )
  return siteId
}

/** A week with what stands around its meetings beside the week alone: the one answer that My time asks for. */
const measureWeek = async (large: Large, siteId: string): Promise<boolean> => {
  await todosOf(large, FEW)
  const outing = { title: 'Measured outing', starts: '2026-12-09T13:00', minutes: 90, zone: 'Europe/Vienna' }
  await large.send('POST', '/api/entries', { ...outing, outdoors: siteId })
  const week = async () => (await large.ask(`/api/entries?${WEEK}`)).text()
  /** Has a day off, to-dos and something out of doors in that week, or none of it. */
  const around = async (there: boolean) => {
    const gone = there ? null : new Date(NOW)
    await large.pool.query('update site_day set deleted_at = $2 where site_id = $1', [siteId, gone])
    await large.pool.query("update todo set deleted_at = $1 where title like 'Measured %'", [gone])
    await large.pool.query('update entry set outdoors_site_id = $1 where title = $2', [
      there ? siteId : null,
      outing.title,
    ])
  }
  const counts = (text: string): number[] => {
    const said: Record<'due' | 'forecasts' | 'daysOff', unknown[]> = JSON.parse(text)
    return [said.due.length, said.forecasts.length, said.daysOff.length]
  }
  await around(true)
  const full = counts(await week())
  if (full.includes(0)) throw new Error(`Something is missing around the week: ${full}`)
  const times: [number[], number[]] = [[], []]
  for (let i = 0; i < ROUNDS; i++) {
    times[0].push(await timed(week))
    await around(false)
    times[1].push(await timed(week))
    await around(true)
  }
  const [all = 0, alone = 0] = times.map(median)
  const ratio = all / alone
  console.log(
    `a week, all around it   ${all.toFixed(1)} ms with to-dos, holidays and weather; ${alone.toFixed(1)} without; ${ratio.toFixed(2)} to 1, at most ${WEEK_BUDGET}: ${met(ratio <= WEEK_BUDGET)}   (${full[0]} to-dos, ${full[2]} day off, a forecast of a week)`,
  )
  return ratio <= WEEK_BUDGET
}

/** A search that keeps off rain beside the same without. */
const measureRain = async (large: Large, ids: readonly string[], siteId: string): Promise<boolean> => {
  const me = ids[0] ?? randomUUID()
  const brief = {
    ...emptyBrief(Math.floor(NOW / 86_400_000), me),
    people: ids.slice(0, 12).map((id) => ({ id, required: true, group: null })),
    minutes: 60,
    rules: { ...emptyBrief(0, me).rules, stretch: 240 },
  }
  const search = async (outdoors: unknown) => {
    const text = await (await large.ask('/api/openings', { brief: { ...brief, outdoors } })).text()
    if (!text.includes('"share":1')) throw new Error(`No search: ${text.slice(0, 200)}`)
  }
  const [rain, without] = await alternately(
    () => search({ siteId, avoid: ['rain'] }),
    () => search(null),
  )
  const ratio = rain / without
  console.log(
    `a search without rain   ${rain.toFixed(1)} ms; ${without.toFixed(1)} the same whatever the weather; ${ratio.toFixed(2)} to 1, at most ${RAIN_BUDGET}: ${met(ratio <= RAIN_BUDGET)}   (12 people, 2 weeks)`,
  )
  return ratio <= RAIN_BUDGET
}

const FIRST = `document.querySelector('table[aria-label=Contacts] tbody tr td')?.innerText`
const TYPED = `{
    const field = document.querySelector('input[aria-label="Find in the contacts"]')
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, 'guest 5')
    field.dispatchEvent(new Event('input', { bubbles: true }))
  }`

/** Thousands of contacts and to-dos of one person: listed by the server, sorted and narrowed on the page. */
const measureLists = async (large: Large, page: Page): Promise<boolean> => {
  await todosOf(large, TODOS - FEW)
  await contactsOf(large, CONTACTS)
  await large.pool.query('analyze todo, contact, contact_address')
  const listed = async (path: string) => {
    const times: number[] = []
    for (let i = 0; i < 10; i++) times.push(await timed(async () => (await large.ask(path)).arrayBuffer()))
    return median(times)
  }
  const results: [string, number, string][] = [
    ['to-dos, listed', await listed('/api/todos'), `${TODOS} to-dos, from the database to the answer`],
    [
      'contacts, listed',
      await listed('/api/contacts'),
      `${CONTACTS} contacts, from the database to the answer`,
    ],
  ]
  await page.goto(`${large.url}/people?view=contacts`)
  await page
    .getByText(`${CONTACTS} contacts`)
    .or(page.getByText(/\d+ contacts/))
    .first()
    .waitFor()
  const sorts: number[] = []
  for (let i = 0; i < 6; i++) {
    await page.waitForTimeout(250)
    const before = await page.evaluate(FIRST)
    sorts.push(
      await until(
        page,
        `[...document.querySelectorAll('table[aria-label=Contacts] th button')].find((one) => one.innerText.trim() === 'Name').click()`,
        `${FIRST} !== ${JSON.stringify(before)}`,
      ),
    )
  }
  results.push(['contacts, sorted', median(sorts), `${CONTACTS} contacts, from the press to the frame`])
  await page.waitForTimeout(250)
  const narrowed = await until(
    page,
    TYPED,
    `[...document.querySelectorAll('p[role=status]')].some((one) => /^[0-9]{1,3} contacts/.test(one.innerText))`,
  )
  results.push(['contacts, narrowed', narrowed, `${CONTACTS} contacts, from the letter to the frame`])
  return results
    .map(([name, ms, size]) => {
      console.log(
        `${name.padEnd(24)}${ms.toFixed(0)} ms; budget ${LIST_BUDGET} ms: ${met(ms < LIST_BUDGET)}   (${size})`,
      )
      return ms < LIST_BUDGET
    })
    .every(Boolean)
}

/** What stands around the meetings: to-dos, contacts, holidays and the weather. */
export const measureAround = async (large: Large, page: Page, ids: readonly string[]): Promise<boolean> => {
  await forget(large)
  const siteId = await furnish(large)
  try {
    return [
      await measureWeek(large, siteId),
      await measureRain(large, ids, siteId),
      await measureLists(large, page),
    ].every(Boolean)
  } finally {
    await forget(large)
  }
}
