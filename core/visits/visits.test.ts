import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { BusySpan, LaneTime } from '../availability/index.ts'
import { runs } from '../testing/properties.ts'
import {
  DAY,
  dayOf,
  instantFromText,
  instantOf,
  MINUTE,
  minuteOf,
  toWall,
  wallOf,
  wallText,
  weekdayOf,
  weekStart,
  zoneTable,
} from '../time/index.ts'
import {
  type Answer,
  answersInWords,
  answerTrouble,
  changeableUntil,
  type Had,
  type Host,
  nextInTurn,
  offeredTimes,
  type Question,
  type Terms,
} from './index.ts'

const VIENNA = 'Europe/Vienna'
const at = (text: string) => instantFromText(VIENNA, text)
const words = (start: number) => wallText(toWall(zoneTable(VIENNA), start)).slice(5)
const OFFICE = [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 480, to: 1020 }))
const NOW = at('2026-11-23T09:00')
const lane = (spans: BusySpan[] = [], zone = VIENNA): LaneTime => ({
  zone,
  known: true,
  hours: OFFICE,
  outside: 'outside',
  spans,
})
const host = (id: string, spans: BusySpan[] = [], booked: number[] = []): Host => ({
  id,
  time: lane(spans),
  booked,
})
const TERMS: Terms = {
  hours: null,
  weekdays: [1, 2, 3, 4, 5, 6, 7],
  fromDay: null,
  toDay: null,
  notice: 0,
  ahead: 60,
  before: 0,
  after: 0,
  mostADay: null,
  mostAWeek: null,
  step: 30,
  tentative: false,
  together: 'together',
}
const busy = (from: string, to: string, more: Partial<BusySpan> = {}): BusySpan => ({
  start: at(from),
  end: at(to),
  state: 'busy',
  ...more,
})
const ASKING = {
  minutes: 60,
  from: at('2026-12-03T00:00'),
  to: at('2026-12-04T00:00'),
  now: NOW,
  zone: VIENNA,
}
const offered = (hosts: Host[], terms: Partial<Terms> = {}, asking: Partial<typeof ASKING> = {}) =>
  offeredTimes(hosts, { ...TERMS, ...terms }, { ...ASKING, ...asking })
const starts = (...given: Parameters<typeof offered>) => offered(...given).map((one) => words(one.start))

describe('what is offered', () => {
  it('is what is free within hours, with as much free before and after as is asked', () => {
    const lunch = [busy('2026-12-03T12:00', '2026-12-03T13:00')]
    const hour = { before: 60, after: 60, step: 60 as const }
    expect(starts([host('tashi', lunch)], hour)).toEqual(
      ['08', '09', '10', '14', '15', '16'].map((clock) => `12-03T${clock}:00`),
    )
    expect(starts([host('tashi', lunch)], { step: 60, hours: [{ weekday: 4, from: 600, to: 900 }] })).toEqual(
      ['12-03T10:00', '12-03T11:00', '12-03T13:00', '12-03T14:00'],
    )
  })

  it('may lie up to what is kept free beside another visit, and not over it', () => {
    const visit = busy('2026-12-03T10:00', '2026-12-03T11:00')
    const kept = busy('2026-12-03T11:00', '2026-12-03T12:00', { gap: true })
    const found = starts([host('tashi', [visit, kept])], { before: 60, after: 60, step: 60 })
    // An hour between the two is the hour after the one and before the other.
    expect(found).toEqual(['08', '12', '13', '14', '15', '16'].map((clock) => `12-03T${clock}:00`))
    expect(starts([host('tashi', [visit, kept])], { step: 60 })).not.toContain('12-03T11:00')
  })

  it('keeps notice, how far ahead, days, weekdays, and what is only held', () => {
    const today = { from: at('2026-11-23T00:00'), to: at('2026-11-24T00:00') }
    expect(starts([host('a')], { notice: 120, step: 60 }, today)[0]).toBe('11-23T11:00')
    expect(starts([host('a')], { ahead: 9 })).toEqual([])
    expect(starts([host('a')], { ahead: 10, step: 60 })).toHaveLength(9)
    const day = dayOf(toWall(zoneTable(VIENNA), ASKING.from))
    expect(starts([host('a')], { fromDay: day + 1 })).toEqual([])
    expect(starts([host('a')], { toDay: day - 1 })).toEqual([])
    expect(starts([host('a')], { weekdays: [1, 2] })).toEqual([])
    const held = [busy('2026-12-03T08:00', '2026-12-03T17:00', { state: 'held' })]
    expect(starts([host('a', held)])).toEqual([])
    expect(starts([host('a', held)], { tentative: true, step: 60 })).toHaveLength(9)
    expect(offered([{ ...host('a'), time: { ...lane(), known: false } }])).toEqual([])
  })

  it('holds the limits of a day and a week, by the calendar of whoever is visited', () => {
    const booked = [at('2026-12-03T09:00'), at('2026-11-30T09:00')]
    expect(starts([host('a', [], booked)], { mostADay: 1 })).toEqual([])
    expect(starts([host('a', [], booked)], { mostADay: 2, step: 60 })).toHaveLength(9)
    expect(starts([host('a', [], booked)], { mostAWeek: 2 })).toEqual([])
    expect(starts([host('a', [], booked)], { mostAWeek: 3, step: 60 })).toHaveLength(9)
  })

  it('is of all together, or of whoever is free', () => {
    const morning = [busy('2026-12-03T08:00', '2026-12-03T12:00')]
    const afternoon = [busy('2026-12-03T13:00', '2026-12-03T17:00')]
    const hosts = [host('a', morning), host('b', afternoon)]
    expect(offered(hosts, { step: 60 })).toEqual([{ start: at('2026-12-03T12:00'), hosts: ['a', 'b'] }])
    const either = offered(hosts, { step: 60, together: 'turn' })
    expect(either.map((one) => `${words(one.start)} ${one.hosts.join()}`)).toContain('12-03T12:00 a,b')
    expect(either).toHaveLength(9)
  })

  // The plainest way there is: every minute of the window, each host, each span.
  it('is exactly what trying every minute finds, over zones and changes of clocks', () => {
    const ZONES = [
      'Europe/Vienna',
      'Asia/Kathmandu',
      'America/St_Johns',
      'Pacific/Auckland',
      'America/Santiago',
    ]
    const span = fc.record({
      from: fc.integer({ min: -300, max: 4500 }),
      minutes: fc.integer({ min: 1, max: 300 }),
      kind: fc.constantFrom('busy', 'busy', 'held', 'gap', 'listed'),
    })
    const given = fc.record({
      zone: fc.constantFrom(...ZONES),
      page: fc.constantFrom(...ZONES),
      // Around the changes of clocks of spring and autumn, north and south, and in between.
      day: fc.constantFrom('2027-03-27', '2026-10-24', '2027-04-03', '2026-09-26', '2026-12-03'),
      spans: fc.array(span, { maxLength: 8 }),
      minutes: fc.constantFrom(15, 30, 60, 90),
      step: fc.constantFrom(5, 15, 30, 60),
      before: fc.constantFrom(0, 10, 60),
      after: fc.constantFrom(0, 15, 60),
      notice: fc.constantFrom(0, 300),
      tentative: fc.boolean(),
      most: fc.constantFrom(null, 1, 2),
    })
    fc.assert(
      fc.property(given, (one) => {
        const table = zoneTable(one.zone)
        const from = instantFromText(one.page, `${one.day}T00:00`)
        const to = from + 3 * DAY
        const now = from + 7 * 60 * MINUTE
        const spans = one.spans.map(
          (each): BusySpan => ({
            start: from + each.from * MINUTE,
            end: from + (each.from + each.minutes) * MINUTE,
            state: each.kind === 'held' ? 'held' : each.kind === 'listed' ? 'listed' : 'busy',
            ...(each.kind === 'gap' ? { gap: true } : {}),
          }),
        )
        const booked = spans.filter((each) => each.state === 'busy' && !each.gap).map((each) => each.start)
        const terms = { ...TERMS, ...one, mostADay: one.most, mostAWeek: one.most && one.most * 2 }
        const found = offeredTimes([{ id: 'a', time: lane(spans, one.zone), booked }], terms, {
          minutes: one.minutes,
          from,
          to,
          now,
          zone: one.page,
        }).map((each) => each.start)
        const page = zoneTable(one.page)
        const day = (instant: number) => dayOf(toWall(table, instant))
        const tried: number[] = []
        const onClock = instantFromText(one.page, `${one.day}T00:00`)
        for (let start = from; start + one.minutes * MINUTE <= to; start += MINUTE) {
          const end = start + one.minutes * MINUTE
          if (start < now + one.notice * MINUTE) continue
          if ((start - onClock) % (one.step * MINUTE) !== 0) continue
          const open = OFFICE.some(
            (part) =>
              part.weekday === weekdayOf(day(start)) &&
              start >= instantOf(table, wallOf(day(start), part.from)) &&
              end <= instantOf(table, wallOf(day(start), part.to)),
          )
          const wide = { start: start - one.before * MINUTE, end: end + one.after * MINUTE }
          const taken = spans.some((each) => {
            if (each.state === 'listed' || (each.state === 'held' && one.tentative)) return false
            const around = each.gap ? { start, end } : wide
            return each.start < around.end && each.end > around.start
          })
          const onDay = booked.filter((each) => day(each) === day(start)).length
          const inWeek = booked.filter((each) => weekStart(day(each)) === weekStart(day(start))).length
          const full = one.most !== null && (onDay >= one.most || inWeek >= one.most * 2)
          if (open && !taken && !full && minuteOf(toWall(page, start)) >= 0) tried.push(start)
        }
        expect(found).toEqual(tried)
      }),
      { numRuns: runs(300) },
    )
  })
})

describe('in turn', () => {
  it('goes to who had least lately, among those who are free', () => {
    const had = new Map<string, Had>([
      ['a', { visits: 2, last: 5 }],
      ['b', { visits: 1, last: 9 }],
      ['c', { visits: 1, last: 3 }],
    ])
    expect(nextInTurn(['a', 'b', 'c'], had)).toBe('c')
    expect(nextInTurn(['a', 'b'], had)).toBe('b')
    expect(nextInTurn(['a', 'd'], had)).toBe('d')
    expect(nextInTurn([], had)).toBeNull()
  })

  it('differs by one at most after any number, where all are free', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 120 }), fc.integer({ min: 1, max: 6 }), (visits, hosts) => {
        const ids = Array.from({ length: hosts }, (_, i) => `h${i}`)
        const had = new Map<string, Had>()
        for (let i = 0; i < visits; i++) {
          const next = nextInTurn(ids, had) ?? ''
          had.set(next, { visits: (had.get(next)?.visits ?? 0) + 1, last: i })
        }
        const counts = ids.map((id) => had.get(id)?.visits ?? 0)
        expect(Math.max(...counts) - Math.min(...counts)).toBeLessThanOrEqual(1)
      }),
    )
  })
})

describe('what a visitor is asked', () => {
  const question = (kind: Question['kind'], more: Partial<Question> = {}): Question => ({
    id: 'q',
    kind,
    words: 'How many',
    required: true,
    options: ['one', 'two'],
    ...more,
  })

  it.each([
    ['text', 'hello', null],
    ['text', '', 'is missing'],
    ['choice', 'two', null],
    ['choice', 'three', 'is none of the choices'],
    ['several', ['one', 'two'], null],
    ['several', [], 'is missing'],
    ['several', ['one', 'three'], 'is none of the choices'],
    ['yes-no', false, null],
    ['yes-no', 'no', 'is neither yes nor no'],
    ['number', 3, null],
    ['number', Number.NaN, 'is no number'],
  ] as const)('%s: %j', (kind, answer, trouble) => {
    expect(answerTrouble(question(kind), answer as Answer)).toBe(trouble)
  })

  it('is no book', () => {
    expect(answerTrouble(question('text'), 'x'.repeat(2001))).toBe('is too long')
  })

  it('may be left out where it need not be answered, and stands in the invitation where it was', () => {
    const free = question('text', { required: false })
    expect(answerTrouble(free, undefined)).toBeNull()
    const guide = question('yes-no', { id: 'r', words: 'A guide' })
    const bring = question('text', { id: 's', words: 'What will you bring?' })
    expect(answersInWords([free, guide, bring], { r: false, s: 'Cores' })).toEqual([
      'A guide: no',
      'What will you bring? Cores',
    ])
  })
})

it('can be changed until so long before it begins, or not at all', () => {
  expect(changeableUntil(10 * MINUTE, 4)).toBe(6 * MINUTE)
  expect(changeableUntil(10, null)).toBeNull()
})
