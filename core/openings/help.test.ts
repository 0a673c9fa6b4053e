import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { DAY, MINUTE } from '../time/index.ts'
import { applyChange, type Change, helping, rankHelp, relaxed, whatHelps, withoutUseless } from './help.ts'
import { type Rules, type SearchBrief, searchOpenings, USUAL_RULES } from './index.ts'
import { aRoom, asked, at, brief, busy, room, rooms, VIENNA } from './samples.ts'

const kindsOf = (given: SearchBrief, knownTo = given.to) =>
  whatHelps(given, 'ilse', knownTo).map((help) => help.changes.map((change) => change.kind).join('+'))
const withRules = (people: SearchBrief['people'], rules: Partial<Rules>) =>
  brief([...people], { rules: { ...USUAL_RULES, ...rules } })

describe('each change helps where its rule is in the way', () => {
  const spans = [busy('2026-12-03T08:00', '2026-12-03T10:00'), busy('2026-12-03T11:00', '2026-12-03T17:00')]
  const oneDay = { from: at('2026-12-03T00:00'), to: at('2026-12-04T00:00') }
  const tight = (rules: Partial<Rules>, more: Partial<SearchBrief> = {}) => ({
    ...withRules([asked('ilse', VIENNA, { spans })], rules),
    ...oneDay,
    ...more,
  })

  it.each([
    ['gaps', tight({ before: 30 })],
    ['limit', tight({ mostADay: 2 })],
    ['bounds', tight({ earliest: 11 * 60 })],
    ['weekdays', tight({ weekdays: [1] })],
    ['shorten', tight({}, { minutes: 90 })],
  ] as const)('%s', (kind, given) => {
    expect(searchOpenings(given).starts).toBe(0)
    expect(kindsOf(given)).toContain(kind)
  })

  it('tentative time and lunch', () => {
    const maybe = [busy('2026-12-03T00:00', '2026-12-05T00:00', 'tentative')]
    expect(kindsOf(brief([asked('ilse', VIENNA, { spans: maybe })]))).toContain('tentative')
    const noons = [1, 2, 3, 4, 5].flatMap((weekday) => [
      { weekday, from: 660, to: 720 },
      { weekday, from: 780, to: 840 },
    ])
    const long = brief([asked('ilse', VIENNA, { hours: noons })], { minutes: 120 })
    expect(kindsOf(long)).toContain('lunch')
  })

  it('fewer of a group', () => {
    const away = { spans: [busy('2026-12-03T00:00', '2026-12-06T00:00', 'away')] }
    const people = [
      asked('ilse'),
      { ...asked('a'), group: 'g' },
      { ...asked('b', VIENNA, away), group: 'g' },
      { ...asked('c', VIENNA, away), group: 'g' },
    ]
    const given = brief(people, { groups: [{ id: 'g', name: 'stations', atLeast: 2 }] })
    const [first] = whatHelps(given, 'ilse', given.to)
    expect(first?.changes).toEqual([{ kind: 'fewer', group: 'g', atLeast: 1 }])
  })

  it('a place without the features', () => {
    const need = { ...aRoom, siteId: VIENNA, seats: 2, features: { screens: 3 } }
    const given = brief([asked('ilse')], { places: rooms([room('Col')], [need]) })
    expect(kindsOf(given)).toContain('features')
  })

  it('a later window, as far as people’s time is known and no further', () => {
    const away = [busy('2026-12-01T00:00', '2026-12-08T00:00', 'away')]
    const given = brief([asked('ilse', VIENNA, { spans: away })])
    expect(kindsOf(given, given.to)).toEqual([])
    expect(kindsOf(given, given.to + 28 * DAY)).toEqual(['later'])
  })
})

describe('pairs', () => {
  const zones = ['Africa/Nairobi', 'Asia/Kathmandu', 'America/Santiago', 'America/St_Johns']

  it('are tried beside a single change that is no small one', () => {
    const people = [
      asked('ilse'),
      ...zones.map((zone) => asked(zone, zone)),
      asked('aroha', 'Pacific/Auckland'),
    ]
    const found = whatHelps(brief(people, { to: at('2026-12-17T00:00') }), 'ilse', at('2026-12-17T00:00'))
    expect(found.some((help) => help.changes.length === 2)).toBe(true)
    expect(found).toEqual([...found].sort(rankHelp))
  })

  it('are ranked by what they take: a week later is more than an hour of stretch, a month more than somebody missing', () => {
    const order: Change[] = [
      { kind: 'stretch', minutes: 45 },
      { kind: 'later', days: 7 },
      { kind: 'later', days: 14 },
      { kind: 'optional', id: 'tashi' },
      { kind: 'later', days: 28 },
    ]
    const helps = order.map((change) => ({ changes: [change], openings: 3 }))
    expect([...helps].reverse().sort(rankHelp)).toEqual(helps)
  })

  it('are not, where a small change does', () => {
    const people = [asked('ilse'), asked('tashi', 'Asia/Kathmandu'), asked('declan', 'America/St_Johns')]
    const found = whatHelps(brief(people), 'ilse', at('2026-12-05T00:00'))
    expect(found.filter((help) => help.changes.length > 1)).toEqual([])
  })
})

describe('what is promised', () => {
  it('is what the search then finds, for every change offered', () => {
    const hour = fc.tuple(fc.integer({ min: 8, max: 16 }), fc.integer({ min: 1, max: 9 }))
    const person = fc.record({
      zone: fc.constantFrom(VIENNA, 'Asia/Kathmandu', 'America/St_Johns', 'Pacific/Auckland'),
      hours: fc.array(hour, { maxLength: 3 }),
    })
    fc.assert(
      fc.property(fc.array(person, { minLength: 1, maxLength: 4 }), (people) => {
        const given = brief([
          asked('ilse'),
          ...people.map(({ zone, hours }, i) =>
            asked(`p${i}`, zone, {
              spans: hours.map(([from, length]) => ({
                start: at('2026-12-03T00:00') + from * 60 * MINUTE,
                end: at('2026-12-03T00:00') + (from + length) * 60 * MINUTE,
                state: 'busy' as const,
              })),
            }),
          ),
        ])
        if (searchOpenings(given).starts > 0) return
        const found = whatHelps(given, 'ilse', given.to)
        for (const help of found) {
          const tried = help.changes.reduce(applyChange, given)
          const { openings, bands } = searchOpenings(tried)
          expect(bands.length >= help.openings && help.openings > 0).toBe(true)
          expect(openings.length).toBeGreaterThan(0)
        }
      }),
      { numRuns: runs(150) },
    )
  })

  it('is looked for in steps that never go back', () => {
    const given = brief([asked('ilse'), asked('aroha', 'Pacific/Auckland')])
    const steps = [...helping(given, 'ilse', given.to)]
    // Each length, window and zone that is read for a trial is a step, though it has nothing to tell.
    expect(steps.filter((step) => step === null).length).toBeGreaterThan(10)
    const shares = steps.flatMap((step) => step?.share ?? [])
    expect(shares.length).toBeGreaterThan(3)
    expect(Math.max(...shares)).toBeLessThanOrEqual(1)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
  })
})

describe('a change', () => {
  const given = brief([asked('ilse'), asked('tashi')], {
    groups: [{ id: 'g', name: 'stations', atLeast: 2 }],
    places: rooms([room('Col')], [{ ...aRoom, features: { screens: 1 } }, aRoom]),
  })
  const changes: Change[] = [
    { kind: 'optional', id: 'tashi' },
    { kind: 'shorten', minutes: 30 },
    { kind: 'stretch', minutes: 45 },
    { kind: 'later', days: 7 },
    { kind: 'tentative' },
    { kind: 'lunch' },
    { kind: 'fewer', group: 'g', atLeast: 1 },
    { kind: 'seats', need: 0, seats: 2 },
    { kind: 'features', need: 0 },
    { kind: 'site', need: 1, siteId: 'Africa/Nairobi' },
    { kind: 'no-places' },
    { kind: 'split', first: ['tashi'], second: [] },
  ]

  it.each(changes)('leaves the brief it was made of as it was: $kind', (change) => {
    const before = structuredClone(given)
    const after = applyChange(given, change)
    expect(given).toEqual(before)
    if (change.kind !== 'split') expect(after).not.toEqual(given)
  })

  it('of a place touches that one alone', () => {
    const after = applyChange(given, { kind: 'features', need: 0 })
    expect(after.places?.needs).toEqual([aRoom, aRoom])
  })

  it('that is not the rules’ leaves them', () => {
    expect(relaxed(USUAL_RULES, { kind: 'shorten', minutes: 15 })).toEqual(USUAL_RULES)
  })
})

describe('what adds something useless', () => {
  const stretch = (minutes: number): Change => ({ kind: 'stretch', minutes })
  const optional: Change = { kind: 'optional', id: 'aroha' }
  it.each([
    // The same with something added, which opens no more; the same in a larger measure.
    [[stretch(15)], 3, [stretch(15), { kind: 'lunch' } as Change], 3, 1],
    [[stretch(15)], 3, [stretch(30), optional], 2, 1],
    // What opens more, or asks for something else, is a choice of its own.
    [[stretch(15)], 3, [stretch(15), { kind: 'lunch' } as Change], 4, 2],
    [[stretch(15)], 3, [optional], 2, 2],
    [[optional], 3, [{ kind: 'optional', id: 'tashi' } as Change, stretch(15)], 2, 2],
  ])('%j with %d beside %j with %d leaves %d', (one, opens, other, opensToo, left) => {
    const helps = [
      { changes: one, openings: opens },
      { changes: other, openings: opensToo },
    ]
    expect(withoutUseless(helps)).toEqual(helps.slice(0, left))
  })
})
