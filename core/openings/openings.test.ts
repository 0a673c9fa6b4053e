import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DAY, instantFromText, MINUTE, toWall, wallText, zoneTable } from '../time/index.ts'
import {
  type Asked,
  BadBrief,
  bestOfEachDay,
  nextOpening,
  reasonsFor,
  ribbonFill,
  type SearchBrief,
  searchOpenings,
} from './index.ts'
import { plainSearch } from './oracle.ts'

const ZONES = [
  'Europe/Vienna',
  'Africa/Nairobi',
  'Asia/Kathmandu',
  'Pacific/Auckland',
  'America/Santiago',
  'America/St_Johns',
  'Australia/Lord_Howe',
]

/** Windows that hold a change of clocks in one hemisphere or the other, and one that holds none. */
const WINDOWS = [
  Date.UTC(2026, 9, 24, 12),
  Date.UTC(2027, 2, 27, 6),
  Date.UTC(2027, 3, 3, 0),
  Date.UTC(2026, 8, 26, 0),
  Date.UTC(2026, 10, 25, 0),
]

const hours = fc.constantFrom(
  [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 })),
  [1, 2, 3, 4, 5, 6, 7].flatMap((weekday) => [
    { weekday, from: 487, to: 720 },
    { weekday, from: 780, to: 1050 },
  ]),
  [7, 1, 2, 3, 4].map((weekday) => ({ weekday, from: 540, to: 1013 })),
  [1, 2, 3, 4, 5, 6].map((weekday) => ({ weekday, from: 1200, to: 1680 })),
  [],
)

const briefs = fc
  .record({
    window: fc.constantFrom(...WINDOWS),
    hoursLong: fc.integer({ min: 3, max: 60 }),
    minutes: fc.constantFrom(15, 30, 45, 50, 60, 7, 120),
    step: fc.constantFrom(5, 10, 15, 30, 60),
    people: fc.array(
      fc.record({
        required: fc.boolean(),
        known: fc.integer({ min: 0, max: 9 }).map((roll) => roll > 0),
        zone: fc.constantFrom(...ZONES),
        hours,
        busy: fc.array(
          fc.record({
            from: fc.integer({ min: -600, max: 3600 }),
            minutes: fc.integer({ min: 1, max: 400 }),
            state: fc.constantFrom('busy', 'tentative', 'held', 'away', 'listed'),
          }),
          { maxLength: 8 },
        ),
      }),
      { minLength: 1, maxLength: 5 },
    ),
  })
  .map(
    ({ window, hoursLong, minutes, step, people }): SearchBrief => ({
      from: window,
      to: window + hoursLong * 60 * MINUTE,
      minutes,
      step,
      people: people.map(
        (person, i): Asked => ({
          id: `p${i}`,
          required: i === 0 || person.required,
          time: {
            zone: person.zone,
            known: person.known,
            hours: person.hours,
            outside: 'outside',
            spans: person.busy.map((span) => ({
              start: window + span.from * MINUTE,
              end: window + (span.from + span.minutes) * MINUTE,
              state: span.state as 'busy',
            })),
          },
        }),
      ),
    }),
  )

/** The plain search is slow by design: time enough for it on a busy machine. */
const SLOW = 1_800_000
const RUNS = Number(process.env.MARMOT_ORACLE_RUNS ?? 300)

describe('the search', () => {
  it(
    'sees every start as the plainest search does',
    () => {
      fc.assert(
        fc.property(briefs, (brief) => {
          const { grid } = searchOpenings(brief)
          const plain = plainSearch(brief)
          const seen = plain.map((_, i) => ({
            start: grid.first + i * grid.stepMs,
            free: grid.free[i] === 1,
            missing: grid.missing[i],
            stretch: grid.stretch[i],
          }))
          expect(grid.count).toBe(plain.length)
          expect(seen).toEqual(plain)
        }),
        { numRuns: RUNS },
      )
    },
    SLOW,
  )

  it(
    'gives as openings the starts of least stretch, ranked, and leaves none of them out',
    () => {
      fc.assert(
        fc.property(briefs, (brief) => {
          const found = searchOpenings(brief)
          const free = plainSearch(brief).filter((each) => each.free)
          const least = Math.min(...free.map((each) => each.stretch))
          const allowed = least === 0 ? 0 : least + Math.max(60, least / 4)
          const covered = free.filter((each) =>
            found.openings.some(
              (opening) =>
                each.start >= opening.from && each.start <= opening.to && opening.missing === each.missing,
            ),
          )
          expect(covered).toEqual(free.filter((each) => each.stretch <= allowed))
          const ranks = found.openings.map((opening) => [opening.missing, opening.stretch, opening.start])
          expect(ranks).toEqual([...ranks].sort(compare))
        }),
        { numRuns: 150 },
      )
    },
    SLOW,
  )
})

const compare = (a: readonly number[], b: readonly number[]): number => {
  for (const [i, value] of a.entries()) if (value !== b[i]) return value - (b[i] ?? 0)
  return 0
}

describe('openings', () => {
  const at = (text: string) => instantFromText('Europe/Vienna', text)
  const office = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 }))
  const asked = (id: string, zone: string, more: Partial<Asked['time']> = {}, required = true): Asked => ({
    id,
    required,
    time: { zone, known: true, hours: office, outside: 'outside', spans: [], ...more },
  })
  const brief = (people: Asked[], more: Partial<SearchBrief> = {}): SearchBrief => ({
    people,
    minutes: 60,
    from: at('2026-12-03T00:00'),
    to: at('2026-12-05T00:00'),
    step: 15,
    ...more,
  })

  it('lie where all are inside their hours, when there is such a time', () => {
    const found = searchOpenings(brief([asked('ilse', 'Europe/Vienna'), asked('wanjiru', 'Africa/Nairobi')]))
    const vienna = zoneTable('Europe/Vienna')
    expect(
      found.bands.map((band) => [
        wallText(toWall(vienna, band.start)),
        wallText(toWall(vienna, band.end)),
        band.stretch,
      ]),
    ).toEqual([
      ['2026-12-03T08:00', '2026-12-03T15:00', 0],
      ['2026-12-04T08:00', '2026-12-04T15:00', 0],
    ])
  })

  it('ask the fewest minutes of stretch when no time fits everybody', () => {
    const people = [
      asked('ilse', 'Europe/Vienna'),
      asked('tashi', 'Asia/Kathmandu'),
      asked('declan', 'America/St_Johns'),
    ]
    const [best] = searchOpenings(brief(people)).openings
    // Kathmandu ends at 12:15 and St. John's begins at 12:30 in Vienna: one hour cannot lie in both.
    expect(best?.stretch).toBe(75)
    const stretched = reasonsFor(people, best ?? { start: 0, end: 0 }).map((reason) => reason.how.stretch)
    expect(stretched.reduce((sum, each) => sum + each, 0)).toBe(75)
  })

  it('count the unknown apart and never as free', () => {
    const found = searchOpenings(
      brief([asked('ilse', 'Europe/Vienna'), asked('renata', 'America/Santiago', { known: false })]),
    )
    expect(found.unknown).toEqual(['renata'])
    expect(found.openings.length).toBeGreaterThan(0)
  })

  it('say how many optional people are missing and rank those openings later', () => {
    const busy = { start: at('2026-12-03T08:00'), end: at('2026-12-03T12:00'), state: 'busy' as const }
    const found = searchOpenings(
      brief([asked('ilse', 'Europe/Vienna'), asked('matteo', 'Europe/Vienna', { spans: [busy] }, false)]),
    )
    expect(found.openings[0]).toMatchObject({ missing: 0, start: at('2026-12-03T12:00') })
    expect(found.openings.at(-1)).toMatchObject({ missing: 1 })
  })

  it('can be walked forward and back, and shown a day at a time', () => {
    const { openings, bands } = searchOpenings(brief([asked('ilse', 'Europe/Vienna')]))
    const first = nextOpening(openings, at('2026-12-03T00:00'), 1)
    expect(first?.start).toBe(at('2026-12-03T08:00'))
    expect(nextOpening(openings, first?.start ?? 0, 1)?.start).toBe(at('2026-12-04T08:00'))
    expect(nextOpening(openings, first?.start ?? 0, -1)).toBeNull()
    expect(bestOfEachDay(openings, 'Europe/Vienna', 5)).toHaveLength(2)
    const day = Math.floor(Date.UTC(2026, 11, 3) / DAY)
    expect([...ribbonFill(bands, 'Europe/Vienna', day - 1, 4)]).toEqual([0, 1, 1, 0])
  })

  it.each([
    ['nobody-required', { people: [] }],
    ['bad-length', { minutes: 0 }],
    ['bad-step', { step: 0 }],
    ['no-window', { to: at('2026-12-01T00:00') }],
    ['window-too-long', { to: at('2036-12-01T00:00'), step: 5 }],
  ] as const)('are refused with the code %s', (code, more) => {
    const search = () =>
      searchOpenings(
        brief([asked('ilse', 'Europe/Vienna')], { ...more, ...('people' in more ? { people: [] } : {}) }),
      )
    expect(search).toThrow(expect.objectContaining({ code }))
    expect(search).toThrow(BadBrief)
  })
})
