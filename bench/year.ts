import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { chromium } from '@playwright/test'
import { z } from 'zod'
import config from '../e2e/playwright.config.ts'
import { startCluster } from '../scripts/lib/postgres.mjs'
import { startMarmot } from '../server/app.ts'
import { openPool } from '../server/platform/database.ts'
import { readSettings } from '../server/platform/settings.ts'

const YEAR = 'from=2026-10-25T00:00:00Z&to=2027-11-02T00:00:00Z'
const BUDGET_MS = 300
const BUDGET_FRAME_MS = 32
const ROUNDS = 15
const PASSWORD = 'watch-the-ridge'
const ADDRESS = 'ilse.brandacher@corrie.example'

const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0
const worst = (values: readonly number[], share: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * share))] ?? 0

const timed = async (work: () => Promise<unknown>): Promise<number> => {
  const start = performance.now()
  await work()
  return performance.now() - start
}

/** Scrolls the year from end to end and back, a wheel's turn a frame, and gives how long each frame took, in milliseconds. */
const SCROLL = `new Promise((done) => {
  const box = document.querySelector('[data-testid=days]')
  const frames = []
  let last = performance.now()
  let way = 1
  const step = (now) => {
    frames.push(now - last)
    last = now
    if (!box || frames.length > 400) return done(frames.slice(2))
    box.scrollTop += 40 * way
    if (box.scrollTop + box.clientHeight >= box.scrollHeight - 1) way = -1
    else if (box.scrollTop === 0) way = 1
    requestAnimationFrame(step)
  }
  requestAnimationFrame(step)
})`

/**
 * The year of an ordinary person in the large demo: the server's time for it beside the bare SQL of the same rows, and
 * the frames while the year scrolls. Gives false when a budget was not met; null when there is no large demo.
 */
export const measureYear = async (folder: string): Promise<boolean | null> => {
  if (!existsSync(join(folder, 'postgres'))) {
    console.log('a year                  not measured: make the large demo first with npm run demo:large')
    return null
  }
  const cluster = await startCluster(folder)
  const databaseUrl = cluster.url('postgres')
  const pool = openPool(databaseUrl)
  const running = await startMarmot(
    readSettings({
      DATABASE_URL: databaseUrl,
      PORT: '0',
      MARMOT_MAIL_PORT: '0',
      MARMOT_LOG: 'silent',
      MARMOT_NOW: '2026-11-23T08:12:00Z',
    }),
  )
  const browser = await chromium.launch(config.use?.launchOptions)
  try {
    const sizes = await pool.query<{
      people: number
      resources: number
      entries: number
      own: number
      series: number
      dates: number
    }>(
      `select (select count(*) from person) as people, (select count(*) from resource) as resources,
              (select count(*) from entry) as entries,
              (select count(*) from entry e join person p on p.id = e.owner_id where p.address = $1) as own,
              (select count(*) from entry e join person p on p.id = e.owner_id where p.address = $1 and e.rule is not null) as series,
              (select count(*) from attendance a join person p on p.id = a.person_id
                where p.address = $1 and a.span && tstzrange('2026-10-25Z', '2027-11-02Z')) as dates`,
      [ADDRESS],
    )
    const [size] = sizes.rows
    const signIn = await fetch(`${running.url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ address: ADDRESS, password: PASSWORD }),
    })
    const cookie = (signIn.headers.get('set-cookie') ?? '').split(';')[0] ?? ''
    // As long as the server takes, to the last byte; what a reader makes of the bytes is not its time.
    const read = async () =>
      (await fetch(`${running.url}/api/entries?${YEAR}`, { headers: { cookie } })).arrayBuffer()
    const check = await fetch(`${running.url}/api/entries?${YEAR}`, { headers: { cookie } })
    z.object({ occurrences: z.array(z.unknown()).min(1000) }).parse(await check.json())
    const bare = () =>
      pool.query(
        `select a.span, e.title from attendance a join occurrence o on o.id = a.occurrence_id join entry e on e.id = o.entry_id
           join person p on p.id = a.person_id
          where p.address = $1 and a.span && tstzrange('2026-10-25Z', '2027-11-02Z')`,
        [ADDRESS],
      )
    const first = await timed(read)
    const reads: number[] = []
    const bares: number[] = []
    for (let i = 0; i < ROUNDS; i++) {
      reads.push(await timed(read))
      bares.push(await timed(bare))
    }
    const fits = median(reads) < BUDGET_MS
    console.log(
      `a year, server time     median ${median(reads).toFixed(0)} ms, first ${first.toFixed(0)} ms, worst ${Math.max(...reads).toFixed(0)} ms; bare SQL ${median(bares).toFixed(0)} ms, ratio ${(median(reads) / median(bares)).toFixed(1)} to 1; budget ${BUDGET_MS} ms: ${fits ? 'met' : 'NOT MET'}   (${size?.dates} dates of ${size?.own} entries, ${size?.series} series, of a person among ${size?.people} people, ${size?.resources} places, ${size?.entries} entries)`,
    )

    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    await page.goto(running.url)
    await page.getByRole('button', { name: /Ilse Brandacher/ }).click()
    await page.getByText('Good to see you').waitFor()
    await page.goto(`${running.url}/time?view=year`)
    await page.locator('.row[data-marked] .stint').first().waitFor()
    await page.waitForLoadState('networkidle')
    await page.waitForTimeout(1500)
    const frames = z.array(z.number()).parse(await page.evaluate(SCROLL))
    const over = frames.filter((each) => each > BUDGET_FRAME_MS).length
    console.log(
      `a year, scrolling       ${frames.length} frames: median ${median(frames).toFixed(1)} ms, 99 of 100 under ${worst(frames, 0.99).toFixed(1)} ms, longest ${Math.max(...frames).toFixed(1)} ms, ${over} over ${BUDGET_FRAME_MS} ms; budget none: ${over === 0 ? 'met' : 'NOT MET'}   (${await page.locator('.stint').count()} blocks on ${await page.locator('[data-row]').count()} lanes)`,
    )
    return fits && over === 0
  } finally {
    await browser.close()
    await running.stop()
    await pool.end()
    cluster.stop()
  }
}

export const LARGE_FOLDER =
  process.env.MARMOT_LARGE ?? fileURLToPath(new URL('../.data-large', import.meta.url))
