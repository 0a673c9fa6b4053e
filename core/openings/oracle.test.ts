import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { dayOf, MINUTE, toWall, zoneTable } from '../time/index.ts'
import type { Asked, PlaceNeed, Rules, SearchBrief, SearchPlace } from './brief.ts'
import { applyChange, type Help, whatHelps } from './help.ts'
import { placeCostOf, plainSearch, plainStarts } from './oracle.ts'
import { searchOpenings } from './search.ts'

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
  [1, 2, 3, 4, 5].flatMap((weekday) => [
    { weekday, from: 420, to: 600 },
    { weekday, from: 960, to: 1200 },
  ]),
  [7, 1, 2, 3, 4].map((weekday) => ({ weekday, from: 540, to: 1013 })),
  [1, 2, 3, 4, 5, 6].map((weekday) => ({ weekday, from: 1200, to: 1680 })),
  [],
)

const often = <T>(usual: T, other: fc.Arbitrary<T>) =>
  fc.oneof({ weight: 3, arbitrary: fc.constant(usual) }, { weight: 1, arbitrary: other })

const rules: fc.Arbitrary<Rules> = fc.record({
  stretch: fc.constantFrom(0, 0, 30, 240, 600, null),
  earliest: often<number | null>(null, fc.constantFrom(360, 450, 540)),
  latest: often<number | null>(null, fc.constantFrom(1080, 1200, 1320)),
  weekdays: often<number[]>([1, 2, 3, 4, 5, 6, 7], fc.constantFrom<number[]>([1, 2, 3, 4, 5], [6, 7], [3])),
  lunch: fc.boolean(),
  before: often(0, fc.constantFrom(10, 15, 45)),
  after: often(0, fc.constantFrom(5, 20, 60)),
  mostADay: often<number | null>(null, fc.integer({ min: 1, max: 4 })),
  notice: fc.constantFrom(0, 5, 120, 1440),
  tentative: fc.boolean(),
})

const spans = <State extends string>(states: State[], maxLength: number) =>
  fc.array(
    fc.record({
      from: fc.integer({ min: -600, max: 3600 }),
      minutes: fc.integer({ min: 1, max: 400 }),
      state: fc.constantFrom(...states),
      gap: fc.boolean(),
    }),
    { maxLength },
  )

/** Six sites, of which most briefs need two. */
const site = fc.constantFrom('a', 'a', 'a', 'b', 'b', 'b', 'c', 'd', 'e', 'f')

const place = fc.record({
  siteId: site,
  kind: fc.constantFrom<PlaceNeed['kind']>('room', 'room', 'room', 'equipment'),
  seats: fc.integer({ min: 1, max: 12 }),
  floor: fc.constantFrom('', '1', '2', 'floor 4'),
  turnaround: fc.constantFrom(0, 0, 15, 30),
  screens: fc.integer({ min: 0, max: 2 }),
  mayTake: fc.integer({ min: 0, max: 9 }).map((roll) => roll > 0),
  night: fc.boolean(),
  taken: spans(['busy', 'held'], 5),
  closed: spans(['busy'], 1),
})

const need: fc.Arbitrary<PlaceNeed> = fc.record({
  kind: fc.constantFrom<PlaceNeed['kind']>('room', 'room', 'equipment'),
  siteId: fc.oneof(site, fc.constant(null)),
  least: fc.constantFrom(1, 2),
  count: fc.constantFrom(1, 1, 1, 2, 2, 4),
  seats: fc.constantFrom(null, 1, 4),
  features: fc.constantFrom<Record<string, number>>({}, {}, { screens: 1 }, { screens: 2 }),
})

const wantedPlaces = fc.option(
  fc.record({
    places: fc.array(place, { minLength: 1, maxLength: 7 }),
    // With a particular one, eight places in all: the most that a brief may ask for.
    needs: fc
      .array(need, { maxLength: 2 })
      .map((needs) => (needs.every((one) => one.count === 4) ? needs.slice(0, 1) : needs)),
    particular: fc.boolean(),
    must: fc.boolean(),
    guests: fc.integer({ min: 0, max: 2 }),
  }),
  { freq: 2 },
)

const briefs = fc
  .record({
    window: fc.constantFrom(...WINDOWS),
    late: fc.integer({ min: 0, max: 50 }),
    hoursLong: fc.integer({ min: 3, max: 60 }),
    minutes: fc.constantFrom(15, 30, 45, 50, 60, 7, 120),
    step: fc.constantFrom(5, 10, 15, 30, 60),
    zone: fc.constantFrom(...ZONES),
    now: fc.integer({ min: -3000, max: 60 }),
    rules,
    people: fc.array(
      fc.record({
        role: fc.constantFrom('required', 'required', 'optional', 'group'),
        known: fc.integer({ min: 0, max: 9 }).map((roll) => roll > 0),
        zone: fc.constantFrom(...ZONES),
        siteId: fc.oneof({ weight: 3, arbitrary: site }, { weight: 1, arbitrary: fc.constant(undefined) }),
        past: fc.constantFrom(0, 0, 30, 90, 300),
        hours,
        busy: spans(['busy', 'tentative', 'held', 'away', 'listed'], 8),
      }),
      { minLength: 1, maxLength: 5 },
    ),
    atLeast: fc.integer({ min: 1, max: 4 }),
    places: wantedPlaces,
  })
  .map((given): SearchBrief => {
    const { window, minutes, step, zone } = given
    const from = window + given.late * MINUTE
    const spanOf = <S extends { from: number; minutes: number }>(span: S) => ({
      start: window + span.from * MINUTE,
      end: window + (span.from + span.minutes) * MINUTE,
    })
    const inGroup = given.people.filter((person, i) => i > 0 && person.role === 'group').length
    const all = (given.places?.places ?? []).map(
      (each, i): SearchPlace => ({
        id: `r${i}`,
        name: `r${i}`,
        siteId: each.siteId,
        kind: each.kind,
        seats: each.seats,
        floor: each.floor,
        turnaround: each.turnaround,
        features: { screens: each.screens },
        mayTake: each.mayTake,
        time: {
          zone,
          known: true,
          outside: 'closed',
          hours: [1, 2, 3, 4, 5, 6, 7].map((weekday) =>
            each.night ? { weekday, from: 0, to: 1440 } : { weekday, from: 420, to: 1200 },
          ),
          spans: each.taken.map((span) => ({ ...spanOf(span), state: span.state })),
          closed: each.closed.map((span) => ({ ...spanOf(span), reason: 'in repair' })),
        },
      }),
    )
    return {
      from,
      to: from + given.hoursLong * 60 * MINUTE,
      minutes,
      step,
      zone,
      now: from + given.now * MINUTE,
      rules: given.rules,
      groups:
        inGroup > 0 ? [{ id: 'g', name: 'Any of these', atLeast: Math.min(inGroup, given.atLeast) }] : [],
      past: Object.fromEntries(given.people.map((person, i) => [`p${i}`, person.past])),
      people: given.people.map(
        (person, i): Asked => ({
          id: `p${i}`,
          required: i === 0 || person.role === 'required',
          ...(i > 0 && person.role === 'group' ? { group: 'g' } : {}),
          ...(person.siteId ? { siteId: person.siteId } : {}),
          time: {
            zone: person.zone,
            known: person.known,
            hours: person.hours,
            outside: 'outside',
            spans: person.busy.map((span) => ({
              ...spanOf(span),
              state: span.state,
              ...(span.gap ? { gap: true } : {}),
            })),
          },
        }),
      ),
      ...(given.places
        ? {
            places: {
              all,
              ids: given.places.particular ? ['r0'] : [],
              needs: given.places.needs,
              must: given.places.must,
              guests: given.places.guests,
              homeSite: 'a',
            },
          }
        : {}),
    }
  })

/** The plain search is slow by design: time enough for it on a busy machine. */
const SLOW = 7_200_000
const RUNS = runs(2000)

describe('the search', () => {
  it(
    'finds what the plainest search finds, with the same reasons in the same order',
    () => {
      let withOpenings = 0
      fc.assert(
        fc.property(briefs, (brief) => {
          const found = searchOpenings(brief)
          if (found.starts > 0) withOpenings++
          const seen = found.openings.map(({ parts: { places, weather: _, ...parts }, ...opening }) => ({
            ...opening,
            parts,
            placeCost: placeCostOf(places),
          }))
          expect({ ...found, openings: seen }).toEqual(plainSearch(brief))
        }),
        { numRuns: RUNS },
      )
      // Were hardly any brief satisfied, little would have been compared.
      expect(withOpenings).toBeGreaterThan(RUNS / 5)
    },
    SLOW,
  )

  it(
    'promises as many openings of each change as the plainest search then finds',
    () => {
      let helped = 0
      fc.assert(
        fc.property(briefs, (brief) => {
          for (const help of whatHelps(brief, 'p0', brief.to)) {
            helped++
            expect(countPlainly(help, brief)).toBe(help.openings)
          }
        }),
        { numRuns: Math.ceil(RUNS / 10) },
      )
      expect(helped).toBeGreaterThan(0)
    },
    SLOW,
  )
})

/** Stretches of free starts of one day, in the brief with the changes made. */
const countPlainly = (help: Help, brief: SearchBrief): number => {
  const changed = help.changes.reduce(applyChange, brief)
  const isSplit = help.changes.some((change) => change.kind === 'split')
  const { places, ...rest } = changed
  const starts = plainStarts(isSplit || !places ? rest : changed)
  const day = (at: number) => dayOf(toWall(zoneTable(brief.zone), at))
  return starts.filter((start, i) => {
    const before = starts[i - 1]
    return start.free && !(before?.free && day(before.start) === day(start.start))
  }).length
}
