import { emptyBrief } from '@marmot/contract/openings'
import { type Blocker, type Change, relaxed, type WhyNot } from '@marmot/core/openings'
import { instantFromText, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { changedBrief } from './changed-brief.ts'
import { blockerWords, changeWords, helpWords, listed, type Names, whyWords } from './words.ts'

const at = (text: string) => instantFromText('Europe/Vienna', text)
const names: Names = {
  person: (id) => id.charAt(0).toUpperCase() + id.slice(1),
  site: (id) => id,
  zone: zoneTable('Europe/Vienna'),
}
const blocker = (id: string, kind: Blocker['kind'], more: Partial<Blocker> = {}): Blocker => ({
  id,
  kind,
  since: null,
  until: null,
  title: null,
  ...more,
})
const why = (more: Partial<WhyNot>): WhyNot => ({
  from: 0,
  to: 1,
  people: [],
  places: [],
  rule: null,
  ...more,
})

describe('who is in the way, in words', () => {
  it('says until when, by the day that is lost last or by the hour', () => {
    const away = blocker('tashi', 'away', { since: at('2026-11-30T00:00'), until: at('2026-12-15T00:00') })
    expect(blockerWords(away, names)).toBe('Tashi is away until Mon 14 Dec')
    const busy = blocker('tashi', 'busy', { since: at('2026-12-03T09:00'), until: at('2026-12-03T10:30') })
    expect(blockerWords(busy, names)).toBe('Tashi is busy until 10:30')
  })

  it('joins those whose hours do not meet, each named once', () => {
    const people = [blocker('ilse', 'hours'), blocker('aroha', 'hours'), blocker('ilse', 'hours')]
    expect(whyWords(why({ people }), names)).toBe('The working hours of Ilse and Aroha do not meet.')
    expect(whyWords(why({ people: [blocker('ilse', 'hours')] }), names)).toBe(
      'All of it lies outside Ilse’s hours.',
    )
  })

  it('names the rule or the places where those are in the way', () => {
    expect(whyWords(why({ rule: 'weekdays' }), names)).toContain('weekdays')
    const places = [{ siteId: 'Innsbruck', seats: 4, features: {}, places: [] }]
    expect(whyWords(why({ places }), names)).toContain('in Innsbruck')
  })

  it('lists names as one says them', () => {
    expect([[], ['a'], ['a', 'b'], ['a', 'b', 'c']].map(listed)).toEqual(['', 'a', 'a and b', 'a, b and c'])
  })
})

describe('what would help', () => {
  const me = '00000000-0000-4000-8000-000000000001'
  const tashi = '00000000-0000-4000-8000-000000000002'
  const brief = {
    ...emptyBrief(20_780, me),
    people: [me, tashi].map((id) => ({ id, required: true, group: null })),
    needs: [{ kind: 'room' as const, siteId: null, least: 1, count: 1, seats: 8, features: { screens: 1 } }],
  }

  it('is said as a sentence', () => {
    const changes: Change[] = [
      { kind: 'optional', id: 'aroha' },
      { kind: 'stretch', minutes: 45 },
    ]
    expect(helpWords({ changes, openings: 3 }, names)).toBe('Make Aroha optional and stretch hours by 45 min')
    expect(changeWords({ kind: 'later', days: 14 }, names)).toBe('Look 2 weeks further')
  })

  it.each<[Change, object]>([
    [{ kind: 'shorten', minutes: 15 }, { minutes: 15 }],
    [{ kind: 'later', days: 7 }, { toDay: brief.toDay + 7 }],
    [{ kind: 'no-places' }, { placesMust: false }],
    [{ kind: 'stretch', minutes: 30 }, { rules: { ...brief.rules, stretch: 30 } }],
    [{ kind: 'lunch' }, { rules: relaxed(brief.rules, { kind: 'lunch' }) }],
    [{ kind: 'seats', need: 0, seats: 4 }, { needs: [{ ...brief.needs[0], seats: 4 }] }],
    [{ kind: 'features', need: 0 }, { needs: [{ ...brief.needs[0], features: {} }] }],
    [{ kind: 'site', need: 0, siteId: me }, { needs: [{ ...brief.needs[0], siteId: me }] }],
    [{ kind: 'split', first: [me], second: [tashi] }, { people: [brief.people[0]] }],
  ])('changes of the brief in hand what it says, and nothing else: %o', (change, expected) => {
    expect(changedBrief(brief, [change])).toEqual(expected)
  })

  it('makes two changes together', () => {
    const both = changedBrief(brief, [{ kind: 'optional', id: tashi }, { kind: 'tentative' }])
    expect(both.people?.map((one) => one.required)).toEqual([true, false])
    expect(both.rules?.tentative).toBe(true)
  })
})
