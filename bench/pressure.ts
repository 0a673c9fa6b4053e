import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { emptyBrief } from '@marmot/contract/briefs'
import { DAY } from '@marmot/core/time'
import { z } from 'zod'
import { type Large, openLarge } from './large.ts'
import { met, quantile } from './measuring.ts'
import { mostUsed } from './memory.ts'

const BUDGET_MS = 100
const BUDGET_MB = 400
const SERIES = 20_000
const SEARCHED = 500
const PROBE_EVERY_MS = 20

const measured = z.object({ median: z.number(), p99: z.number(), longest: z.number() })

const file = (count: number, lines: (i: number) => readonly string[]): Buffer => {
  const events = Array.from({ length: count }, (_, i) =>
    ['BEGIN:VEVENT', ...lines(i), 'END:VEVENT'].join('\r\n'),
  )
  return Buffer.from(['BEGIN:VCALENDAR', 'VERSION:2.0', ...events, 'END:VCALENDAR', ''].join('\r\n'))
}

const stampOf = (ms: number): string => new Date(ms).toISOString().replace(/[-:]|\.000/g, '')

/** About 20 MB: as many entries as one import may hold, each with a note. */
const largeFile = (): Buffer => {
  const note = 'Cores from the upper basin, weighed and bagged. '.repeat(5)
  return file(49_000, (i) => [
    `UID:pressure-${i}@lodestar.example`,
    'DTSTAMP:20261101T000000Z',
    `DTSTART:${stampOf(Date.UTC(2026, 11, 1) + i * 900_000)}`,
    'DURATION:PT15M',
    `SUMMARY:Reading ${i}`,
    `DESCRIPTION:${note}`,
  ])
}

/** What a feed sends that means harm: more dates than anybody could keep. */
const hostileFile = (): Buffer =>
  file(SERIES, (i) => [`UID:x${i}`, 'DTSTART:20200101T080000Z', 'RRULE:FREQ=DAILY', 'SUMMARY:Endless'])

/** Looks at a large file and imports it: how many entries it says it made. */
const importing = async (large: Large): Promise<string> => {
  const bytes = largeFile()
  const looked = await large.send('POST', '/api/imports', bytes)
  const { importId, made } = z.object({ importId: z.string(), made: z.number() }).parse(await looked.json())
  const taken = await large.send('POST', `/api/imports/${importId}/take`)
  const last = (await taken.text()).trim().split('\n').at(-1) ?? '{}'
  const { changeId, trouble } = z
    .object({ changeId: z.string().optional(), trouble: z.string().optional() })
    .parse(JSON.parse(last))
  if (!changeId) throw new Error(`The import failed: ${trouble ?? last}`)
  await large.send('POST', `/api/changes/${changeId}/undo`)
  return `${(bytes.length / 1e6).toFixed(0)} MB with ${made} entries imported`
}

/** Reads a hostile feed: it has to be refused in words. */
const reading = async (large: Large, port: number): Promise<string> => {
  const id = '99999999-9999-4999-8999-999999999999'
  const answer = await large.send('PUT', `/api/feeds/read/${id}`, {
    name: 'Endless',
    address: `http://localhost:${port}/x.ics`,
    everyMinutes: 60,
  })
  const { trouble } = z.object({ trouble: z.string().nullable() }).parse(await answer.json())
  await large.send('DELETE', `/api/feeds/read/${id}`)
  if (!trouble) throw new Error('The hostile feed was read as if it were none')
  return `${SERIES} endless series refused`
}

/** Searches for many people, again and again until the others are done. */
const searching = async (large: Large, ids: readonly string[], going: () => boolean): Promise<string> => {
  const today = Date.UTC(2026, 10, 23) / DAY
  const brief = {
    ...emptyBrief(today, ids[0] ?? ''),
    people: ids.slice(0, SEARCHED).map((id, i) => ({ id, required: i < 4, group: null })),
    toDay: today + 56,
  }
  let times = 0
  do {
    const answer = await large.send('POST', '/api/openings', { brief })
    const last = (await answer.text()).trim().split('\n').at(-1) ?? '{}'
    if (z.object({ share: z.number() }).parse(JSON.parse(last)).share !== 1)
      throw new Error(`A search broke off: ${last.slice(0, 200)}`)
    times++
  } while (going())
  return `${times} searches for ${SEARCHED} people answered`
}

/**
 * What everybody else notices while a large file is imported, a hostile feed is read and 500 people are searched for, all
 * at once: how long the thread that answers is held, what a small request takes, and the memory of it all.
 */
export const measurePressure = async (ids: readonly string[]): Promise<boolean> => {
  const feed = createServer((_, response) => response.setHeader('content-type', 'text/calendar').end(hostile))
  const hostile = hostileFile()
  await new Promise<void>((resolve) => feed.listen(0, '127.0.0.1', () => resolve()))
  const { port } = feed.address() as AddressInfo
  const record = join(tmpdir(), `marmot-measured-${process.pid}.json`)
  const large = await openLarge({
    program: 'bench/measured-server.ts',
    env: { MARMOT_MEASURED: record, MARMOT_FEED_HOSTS: `localhost:${port}` },
  })
  if (!large) return false
  try {
    await new Promise((resolve) => setTimeout(resolve, 1500))
    large.server.kill('SIGUSR2')
    let busy = true
    const took: number[] = []
    const probe = (async () => {
      while (busy) {
        const start = performance.now()
        await (await large.ask('/api/session')).arrayBuffer()
        took.push(performance.now() - start)
        await new Promise((resolve) => setTimeout(resolve, PROBE_EVERY_MS))
      }
    })()
    let others = true
    const work = Promise.all([importing(large), reading(large, port)]).finally(() => {
      others = false
    })
    const [done, searched] = await Promise.all([work, searching(large, ids, () => others)])
    busy = false
    await probe
    await new Promise((resolve) => setTimeout(resolve, 1100))
    const held = measured.parse(JSON.parse(readFileSync(record, 'utf8')))
    const memory = mostUsed(large.server.pid ?? 0)
    const fits = held.p99 <= BUDGET_MS && memory <= BUDGET_MB
    console.log(
      `under pressure          the thread that answers is held ${held.p99.toFixed(0)} ms at the 99th percentile, ${held.longest.toFixed(0)} ms at the most; at most ${BUDGET_MS}: ${met(held.p99 <= BUDGET_MS)}; a small request takes ${quantile(took, 0.5).toFixed(0)} ms, 99 of 100 under ${quantile(took, 0.99).toFixed(0)} ms, longest ${Math.max(...took).toFixed(0)}; memory with threads ${memory.toFixed(0)} MB, at most ${BUDGET_MB}: ${met(memory <= BUDGET_MB)}   (${[...done, searched].join(', ')})`,
    )
    return fits
  } finally {
    feed.close()
    await large.pool.query("delete from entry where source_uid like 'pressure-%'")
    await large.stop()
  }
}
