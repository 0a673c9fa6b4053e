import { randomUUID } from 'node:crypto'
import { DAY } from '@marmot/core/time'
import type { Page } from '@playwright/test'
import type { Large } from './large.ts'
import { framesOf, median, met, tellFrames, timed } from './measuring.ts'
import { inAllRounds, NOTING, WAIT_A_FRAME } from './screen.ts'

const CLIENTS = 8
const EACH = 12
const DAYS = 60
const ONE_BUDGET_MS = 50
const PANEL_BUDGET_MS = 150
const PANEL = 8
const VOTERS = 60
const TIMES = 40
const POLL_BUDGET_MS = 200

const put = async (large: Large, method: string, path: string, body: unknown): Promise<unknown> => {
  const answer = await large.send(method, path, body)
  if (!answer.ok) throw new Error(await answer.text())
  return answer.json()
}

/** What a visitor page takes from the database to the answer, with eight clients at once: of one person, and of a panel. */
export const measureVisits = async (large: Large, people: readonly string[]): Promise<boolean> => {
  const pageId = randomUUID()
  const slug = `bench-${pageId.slice(0, 8)}`
  await put(large, 'PUT', `/api/visit-pages/${pageId}`, { slug, name: 'Measured' })
  const { person } = (await (await large.ask('/api/session')).json()) as { person: { id: string } }
  const kinds = [
    { name: 'one person', hosts: [person.id], budget: ONE_BUDGET_MS },
    {
      name: 'a panel',
      hosts: [person.id, ...people.filter((id) => id !== person.id)].slice(0, PANEL),
      budget: PANEL_BUDGET_MS,
    },
  ]
  const passed: boolean[] = []
  for (const { name, hosts, budget } of kinds) {
    const kindId = randomUUID()
    const kind = name.replace(' ', '-')
    await put(large, 'PUT', `/api/visit-pages/${pageId}/kinds/${kindId}`, {
      slug: kind,
      title: name,
      lengths: [30],
      ahead: DAYS,
      before: 15,
      after: 15,
      hours: [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ weekday, from: 0, to: 1440 })),
      hosts,
    })
    await large.pool.query('update visit_host set agreed_at = now() where kind_id = $1', [kindId])
    // As a visitor: nobody is signed in.
    const url = `${large.url}/api/v/${slug}/${kind}?days=${DAYS}`
    const first = (await (await fetch(url)).json()) as { starts: number[] }
    const times: number[] = []
    const client = async () => {
      for (let i = 0; i < EACH; i++)
        times.push(await timed(async () => void (await (await fetch(url)).arrayBuffer())))
    }
    // Once for nothing: a server that has just been started is still being compiled.
    await Promise.all(Array.from({ length: CLIENTS }, client))
    times.length = 0
    await Promise.all(Array.from({ length: CLIENTS }, client))
    const fits = median(times) <= budget
    passed.push(fits)
    console.log(
      `visitor page, ${name}`.padEnd(24) +
        `${median(times).toFixed(0)} ms at the median from the database to the answer, ${CLIENTS} clients; at most ${budget}: ${met(fits)}   (${hosts.length} hosts, ${DAYS} days, ${first.starts.length} times)`,
    )
  }
  await large.send('DELETE', `/api/visit-pages/${pageId}`)
  return passed.every(Boolean)
}

/** A poll of many people and times: how soon it is there, and the frames while it is drawn and looked through. */
export const measurePoll = async (large: Large, page: Page, people: readonly string[]): Promise<boolean> => {
  const start = Date.parse('2026-12-07T08:00:00Z')
  const { pollId } = (await put(large, 'POST', '/api/polls', {
    title: 'Measured',
    minutes: 60,
    zone: 'Europe/Vienna',
    people: people.slice(0, VOTERS).map((id) => ({ id, required: true })),
    guests: [],
    closes: '2026-12-06T17:00:00Z',
    times: Array.from({ length: TIMES }, (_, i) => ({
      start: new Date(start + Math.floor(i / 4) * DAY + (i % 4) * 7_200_000).toISOString(),
      places: [],
    })),
    needed: null,
    results: 'all',
    names: true,
    oneMark: false,
    proposals: true,
    notices: 'none',
    holds: false,
    door: null,
  })) as { pollId: string }
  await large.pool.query(
    `insert into poll_mark (voter_id, time_id, mark)
     select v.id, t.id, (array['yes', 'no', 'if-need-be'])[1 + (random() * 2)::integer]
       from poll_voter v join poll_time t on t.poll_id = v.poll_id where v.poll_id = $1 and random() < 0.7`,
    [pollId],
  )
  await large.pool.query(
    'update poll_voter set marked_at = now() where poll_id = $1 and id in (select voter_id from poll_mark)',
    [pollId],
  )
  const path = `/api/polls/${pollId}`
  await large.ask(path)
  const times: number[] = []
  for (let i = 0; i < EACH; i++)
    times.push(await timed(async () => void (await (await large.ask(path)).arrayBuffer())))
  const fits = median(times) <= POLL_BUDGET_MS
  console.log(
    `opening a poll          ${median(times).toFixed(0)} ms at the median from the database to the answer, at most ${POLL_BUDGET_MS}: ${met(fits)}   (${VOTERS} people, ${TIMES} times)`,
  )
  const frames = await inAllRounds(async () => {
    await page.goto(`${large.url}/now`)
    await page.getByText('Good to see you').waitFor()
    await page.evaluate(NOTING)
    await page.evaluate(
      `history.pushState({}, '', '/poll/${pollId}'); dispatchEvent(new PopStateEvent('popstate'))`,
    )
    await page.getByRole('heading', { name: 'Measured' }).waitFor()
    await page.evaluate(`(async () => {
      const box = document.querySelector('.said').parentElement
      const tall = box.closest('.overflow-y-auto')
      for (let i = 0; i < 120; i++) { box.scrollLeft += 24; tall.scrollTop += 16; await ${WAIT_A_FRAME} }
    })()`)
    return page.evaluate('window.stopFrames()')
  })
  const smooth = tellFrames(
    'drawing a poll',
    framesOf(frames),
    `${VOTERS} people × ${TIMES} times, opened and looked through`,
  )
  await large.send('POST', `${path}/withdraw`, {})
  return fits && smooth
}
