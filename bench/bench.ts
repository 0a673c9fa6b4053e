import { existsSync, readFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { gzipSync } from 'node:zlib'
import type { BusySpan } from '@marmot/core/availability'
import { type Asked, type SearchBrief, searchOpenings, USUAL_RULES } from '@marmot/core/openings'
import { DAY } from '@marmot/core/time'
import { z } from 'zod'
import { plainSearch } from '../core/openings/oracle.ts'
import { generate } from '../demo/generate.ts'
import { measureAround } from './around.ts'
import { measureCold } from './cold.ts'
import { measurePeople, measurePictures } from './every-day.ts'
import { measureFinding } from './finding.ts'
import { openLarge } from './large.ts'
import { best, met } from './measuring.ts'
import { measureMemory } from './memory.ts'
import { manyPeople, measureOpenings } from './openings.ts'
import { measurePlaces } from './places.ts'
import { measurePressure } from './pressure.ts'
import {
  measureDragging,
  measurePlacesScroll,
  measureTable,
  measureYearScroll,
  openScreen,
} from './screen.ts'
import { measureSending } from './sending.ts'
import { measurePoll, measureVisits } from './visits.ts'
import { measureYear } from './year.ts'

const NOW = Date.UTC(2026, 10, 23, 8)
const ROUNDS = 25

/** People of the demo with their busy spans, as the search gets them. */
const askedPeople = (count: number): Asked[] => {
  const demo = generate(NOW)
  return demo.people.slice(0, count).map((person, i) => {
    const pattern = demo.patterns[person.pattern]
    const spans = demo.entries
      .filter((entry) => entry.participants.some((one) => one.personId === person.id))
      .flatMap((entry) =>
        entry.occurrences.map((date): BusySpan => ({ start: date.start, end: date.end, state: entry.shows })),
      )
    const hours = pattern.days.flatMap((weekday) =>
      pattern.spans.map(([from, to]) => ({ weekday, from, to })),
    )
    return {
      id: person.id,
      required: i % 4 !== 3,
      time: { zone: person.zone, known: true, hours, spans, outside: 'outside' },
    }
  })
}

const searchAgainstOracle = async (): Promise<void> => {
  const people = askedPeople(12)
  const brief: SearchBrief = {
    people,
    minutes: 60,
    from: NOW,
    to: NOW + 28 * DAY,
    step: 15,
    zone: 'Europe/Vienna',
    now: NOW,
    rules: { ...USUAL_RULES, stretch: 240 },
  }
  const spans = people.reduce((sum, person) => sum + person.time.spans.length, 0)
  // Both once before they are measured, so that zone tables and remembered minutes are there.
  searchOpenings(brief)
  plainSearch(brief)
  const search = await best(ROUNDS, () => searchOpenings(brief))
  const oracle = await best(3, () => plainSearch(brief))
  const size = `12 people, ${spans} busy spans, 4 weeks, 15-minute steps`
  console.log(
    `search in core          ${search.toFixed(2)} ms; plain oracle ${oracle.toFixed(0)} ms; ratio ${(oracle / search).toFixed(0)} to 1   (${size})`,
  )
}

const chunk = z.object({ file: z.string(), imports: z.array(z.string()).optional() })
const manifest = z.record(z.string(), chunk)

/** What is loaded when something is first shown: of which chunks, and how much it may be. */
const LOADED = [
  { name: 'first screen', chunks: ['index.html', 'app/app.tsx'], budget: 150_000 },
  { name: 'a visitor’s page', chunks: ['outside.html', 'visits/visit-page.tsx'], budget: 90_000 },
] as const

/**
 * The JavaScript that is loaded for something, as it travels: the page's own chunk, what is shown, all they import. A browser
 * takes Brotli over TLS and from its own machine; gzip is for a proxy that knows no better.
 */
const loaded = ({ name, chunks: roots, budget }: (typeof LOADED)[number]): boolean => {
  const folder = new URL('../web/dist/', import.meta.url)
  const path = new URL('.vite/manifest.json', folder)
  if (!existsSync(path)) throw new Error('Build first: npm run build')
  const chunks = manifest.parse(JSON.parse(readFileSync(path, 'utf8')))
  const files = new Set<string>()
  const follow = (each: string): void => {
    const found = chunks[each]
    if (!found || files.has(found.file)) return
    if (found.file.endsWith('.js')) files.add(found.file)
    for (const one of found.imports ?? []) follow(one)
  }
  for (const root of roots) follow(root)
  if (files.size < 2) throw new Error(`The chunks of ${name} were not found`)
  const total = (bytesOf: (file: string) => number): number =>
    [...files].reduce((sum, file) => sum + bytesOf(file), 0)
  const bytes = total((file) => readFileSync(new URL(`${file}.br`, folder)).length)
  const gzipped = total((file) => gzipSync(readFileSync(new URL(file, folder))).length)
  const fits = bytes <= budget
  console.log(
    `${name.padEnd(24)}${(bytes / 1000).toFixed(1)} kB of JavaScript as it travels (${(gzipped / 1000).toFixed(1)} by gzip), in ${files.size} files; budget ${budget / 1000} kB: ${met(fits)}`,
  )
  return fits
}

const [cpu] = cpus()
console.log(`${cpus().length} × ${cpu?.model ?? 'unknown'}, Node.js ${process.version}`)
await searchAgainstOracle()
const passed = LOADED.map(loaded)
passed.push(await measurePictures())
const large = await openLarge()
if (large) {
  const ids = await manyPeople(large.pool)
  try {
    passed.push(await measureOpenings(large.pool, ids))
    passed.push(await measureYear(large))
    passed.push(await measureFinding(large))
    passed.push(await measureMemory(large, ids))
    const { browser, page } = await openScreen(large.url)
    try {
      passed.push(await measureCold(await page.context().cookies(), large.url))
      passed.push(await measurePeople(page, large.url))
      passed.push(await measureYearScroll(page, large.url))
      passed.push(await measurePlacesScroll(page, large.url))
      passed.push(await measureTable(page, large.url))
      passed.push(await measureDragging(page, large.url, ids, large.folder))
      passed.push(await measurePoll(large, page, ids))
      passed.push(await measureAround(large, page, ids))
    } finally {
      await browser.close()
    }
    passed.push(await measurePlaces(large))
    passed.push(await measureVisits(large, ids))
  } finally {
    await large.stop()
  }
  passed.push(await measureSending())
  passed.push(await measurePressure(ids))
} else console.log('The large demo is not measured: make it first with npm run demo:large')
process.exit(passed.every(Boolean) ? 0 : 1)
