import { event } from '@marmot/contract/live'
import { id, route } from '@marmot/contract/route'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { z } from 'zod'
import { startMarmot } from './app.ts'
import { domains } from './domains.ts'
import { openPool } from './platform/database.ts'
import type { Domain } from './platform/house.ts'
import { addJob } from './platform/jobs.ts'
import { tell } from './platform/live.ts'
import { copyDemo, signInAs, testSettings, until } from './testing/marmot.ts'

const countCairns = route({
  method: 'GET',
  path: '/api/cairns',
  summary: 'How many cairns there are.',
  who: 'person',
  answer: () => z.object({ cairns: z.number() }),
})
const cairnsEvent = event('cairns', { people: z.array(id) })

/** A domain of nothing: what its `domain.ts` would export. */
let built = 0
const cairns: Domain = {
  routes: ({ mount }) => mount(countCairns, async () => ({ cairns: built })),
  tasks: () => ({
    'build-cairn': async () => {
      built++
    },
  }),
  minutely: {
    cairns: async ({ pool }) => {
      await pool.query("insert into setting (name, value) values ('cairns', 'true') on conflict do nothing")
    },
  },
  events: [{ event: cairnsEvent }],
  notices: ['built'],
}

let databaseUrl: string
let running: Awaited<ReturnType<typeof startMarmot>>
let pool: ReturnType<typeof openPool>
beforeAll(async () => {
  databaseUrl = await copyDemo()
  pool = openPool(databaseUrl)
  running = await startMarmot(testSettings(databaseUrl), [...domains, cairns])
})
afterAll(async () => {
  await running.stop()
  await pool.end()
})

it('a new domain is served, described, does its work, and is heard by those whom it concerns', async () => {
  const ilse = await signInAs(running.url, 'Ilse Brandacher')
  const tashi = await signInAs(running.url, 'Tashi Lhendup')
  const described = await ilse.get<{ paths: Record<string, unknown> }>('/api/openapi.json')
  expect(described.body.paths['/api/cairns']).toMatchObject({ get: { summary: countCairns.summary } })

  const stream = await fetch(`${running.url}/api/events`, { headers: { cookie: ilse.cookie } })
  const reader = stream.body?.pipeThrough(new TextDecoderStream()).getReader()
  let heard = ''
  const listening = (async () => {
    for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) heard += part.value
  })().catch(() => undefined)

  await addJob(pool, 'build-cairn', {}, 'one')
  await addJob(pool, 'minutely', {}, 'minutely now')
  await until(
    () => ilse.get<{ cairns: number }>('/api/cairns'),
    (answer) => answer.body.cairns === 1,
  )
  await until(
    () => pool.query("select 1 from setting where name = 'cairns'"),
    (found) => found.rowCount === 1,
  )
  await tell(pool, [
    { kind: 'cairns', people: [tashi.person.id] },
    { kind: 'nobody-knows', people: [ilse.person.id] },
    { kind: 'cairns', people: [ilse.person.id] },
  ])
  await until(
    () => heard,
    (text) => text.includes('"cairns"'),
  )
  expect(heard).not.toContain(tashi.person.id)
  expect(heard).not.toContain('nobody-knows')
  await reader?.cancel()
  await listening
})

it('two domains that bring the same are refused', async () => {
  const start = (domain: Domain) => startMarmot(testSettings(databaseUrl), [...domains, domain])
  await expect(start({ routes: (routes, house) => domains[0]?.routes?.(routes, house) })).rejects.toThrow(
    'Two domains bring the route',
  )
  await expect(start({ events: [{ event: event('time', {}) }] })).rejects.toThrow('live event time')
  await expect(start({ notices: ['invited'] })).rejects.toThrow('notice invited')
  await expect(start({ tasks: () => ({ minutely: async () => undefined }) })).rejects.toThrow('task minutely')
})
