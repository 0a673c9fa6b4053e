import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { HOUR, instantFromText, MINUTE } from '../time/index.ts'
import {
  lookAtRun,
  type PlaceRules,
  type RunDate,
  type RunPlace,
  refusalInWords,
  refusalOf,
} from './index.ts'

const ZONE = 'Europe/Vienna'
const at = (text: string) => instantFromText(ZONE, text)
const NOW = at('2026-11-23T09:00')
const EVERY_DAY = Array.from({ length: 7 }, (_, i) => ({ weekday: i + 1, from: 420, to: 1140 }))

const RULES: PlaceRules = {
  trainedOnly: false,
  teams: [],
  asksApproval: false,
  approvalHours: 48,
  hours: EVERY_DAY,
  before: 0,
  after: 0,
  shortest: null,
  longest: null,
  aheadDays: null,
  notice: null,
  atOnce: null,
}

const lab = (
  name: string,
  taken: readonly (readonly [string, string])[] = [],
  more: Partial<RunPlace> = {},
): RunPlace => ({
  id: name,
  name,
  kind: 'lab',
  site: 'Innsbruck',
  siteId: 'innsbruck',
  zone: ZONE,
  seats: 3,
  features: {},
  rules: { ...RULES, after: 30 },
  mayNot: null,
  mine: 0,
  open: { zone: ZONE, known: true, hours: EVERY_DAY, outside: 'closed', spans: [], closed: [] },
  taken: taken.map(([from, to]) => ({ start: at(from), end: at(to), by: 'Matteo Ruprechter' })),
  ...more,
})

const date = (day: string, from: string, to: string, ...placeIds: string[]): RunDate => ({
  recurrence: `${day}T${from}`,
  span: { start: at(`${day}T${from}`), end: at(`${day}T${to}`) },
  placeIds,
})

const look = (dates: readonly RunDate[], places: readonly RunPlace[]) =>
  lookAtRun(dates, places, { zone: ZONE, seats: 0, now: NOW })

describe('a run of dates with places', () => {
  it('says of each date what is in the way, and offers its like, and the nearest time that day', () => {
    const cold = lab('Cold lab −20', [['2026-12-10T10:00', '2026-12-10T12:00']], {
      features: { 'band saw': 1 },
    })
    const warm = lab('Cold lab −5')
    const [first, second] = look(
      [date('2026-12-03', '11:00', '13:00', cold.id), date('2026-12-10', '11:00', '13:00', cold.id)],
      [cold, warm, lab('Thin-section lab', [], { siteId: 'nairobi' }), lab('Pit', [], { seats: 1 })],
    )
    expect(first).toMatchObject({ clashes: [], repairs: [] })
    expect(second?.clashes).toMatchObject([{ placeId: cold.id, refusal: { rule: 'place-taken' } }])
    expect(second?.repairs).toEqual([
      { kind: 'place', placeIds: [warm.id], lacks: ['band saw'] },
      // Half an hour after the other's use, which ends at noon.
      { kind: 'time', start: at('2026-12-10T12:30') },
    ])
  })

  it('knows that two of its own dates cannot have the same place', () => {
    const cold = lab('Cold lab')
    const [, second] = look(
      [date('2026-12-03', '11:00', '13:00', cold.id), date('2026-12-03', '13:00', '14:00', cold.id)],
      [cold],
    )
    expect(second).toMatchObject({ clashes: [{ placeId: cold.id, refusal: null }] })
    expect(second?.repairs).toEqual([{ kind: 'time', start: at('2026-12-03T13:30') }])
  })

  it('offers no time that is over, and nothing where there is nothing', () => {
    const cold = lab('Cold lab', [['2026-11-23T09:30', '2026-11-23T19:00']])
    expect(look([date('2026-11-23', '10:00', '12:00', cold.id)], [cold])).toMatchObject([
      { clashes: [{}], repairs: [] },
    ])
  })

  it('names the rule of each refusal', () => {
    const span = { start: at('2026-12-03T11:00'), end: at('2026-12-03T12:00') }
    const wordsOf = (place: RunPlace) => {
      const refusal = refusalOf(place, place.taken, span, { now: NOW })
      return refusal && refusalInWords(refusal, place, span, 'Africa/Nairobi')
    }
    expect(wordsOf(lab('Cold lab'))).toBeNull()
    const by = (rules: Partial<PlaceRules>, more: Partial<RunPlace> = {}) =>
      wordsOf(lab('Cold lab', [], { rules: { ...RULES, ...rules }, ...more }))
    expect(by({}, { mayNot: 'retired' })).toBe('is not in use any more.')
    expect(by({ teams: ['Ice Core', 'Data'] }, { mayNot: 'not-for-you' })).toBe(
      'is only for Ice Core and Data.',
    )
    expect(by({}, { mayNot: 'not-trained' })).toContain('were trained')
    expect(by({}, { mayNot: 'training-over' })).toContain('still good')
    expect(by({ shortest: 90 })).toBe('is reserved for 1 h 30 at least.')
    expect(by({ longest: 45 })).toBe('is reserved for 45 min at most.')
    expect(by({ aheadDays: 7 })).toBe('can be reserved up to 7 days ahead.')
    expect(by({ notice: 20_160 })).toContain('has to be reserved at least')
    expect(by({ atOnce: 2 }, { mine: 2 })).toBe('can be had 2 times at once by the same person, and no more.')
    expect(by({ shortest: 60, longest: 60, aheadDays: 11, notice: 60, atOnce: 2 }, { mine: 1 })).toBeNull()
    expect(wordsOf(lab('Cold lab', [['2026-12-03T10:00', '2026-12-03T10:45']]))).toBe(
      'is taken at 11:00 in Innsbruck: Matteo Ruprechter has it from 10:00 to 10:45.',
    )
    expect(wordsOf(lab('Cold lab', [], { open: { ...lab('').open, hours: [] } }))).toContain('closed')
  })

  it('offers what can be had, and another place wherever there is one', () => {
    const hour = fc.integer({ min: 7, max: 18 })
    const taken = fc.uniqueArray(hour, { maxLength: 8 })
    fc.assert(
      fc.property(
        fc.array(taken, { minLength: 1, maxLength: 4 }),
        fc.array(hour, { minLength: 1, maxLength: 4 }),
        (all, starts) => {
          const clock = (n: number, minute = '00') => `2026-12-03T${String(n).padStart(2, '0')}:${minute}`
          const places = all.map((hours, i) =>
            lab(
              `Lab ${i}`,
              hours.sort((a, b) => a - b).map((n) => [clock(n), clock(n, '30')] as const),
            ),
          )
          const dates = starts.map(
            (n, i): RunDate => ({
              recurrence: `${i}`,
              span: { start: at(clock(n)), end: at(clock(n)) + HOUR / 2 },
              placeIds: ['Lab 0'],
            }),
          )
          const seen = look(dates, places)
          for (const [i, { clashes, repairs, span }] of seen.entries()) {
            if (clashes.length === 0) expect(repairs).toEqual([])
            const free = places.filter(
              (place) => place.id !== 'Lab 0' && refusalOf(place, place.taken, span, { now: NOW }) === null,
            )
            if (clashes.length > 0) expect(repairs.some((one) => one.kind === 'place')).toBe(free.length > 0)
            for (const repair of repairs) {
              const mended =
                repair.kind === 'place'
                  ? { span, placeIds: repair.placeIds }
                  : { span: { start: repair.start, end: repair.start + 30 * MINUTE }, placeIds: ['Lab 0'] }
              const before = dates.slice(0, i).filter((_, k) => seen[k]?.clashes.length === 0)
              const again = look([...before, { recurrence: 'mended', ...mended }], places)
              expect(again.at(-1)?.clashes).toEqual([])
            }
          }
        },
      ),
      { numRuns: runs(200) },
    )
  })
})
