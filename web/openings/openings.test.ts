import { emptyBrief } from '@marmot/contract/briefs'
import { type Blocker, type Change, relaxed, type WhyNot } from '@marmot/core/openings'
import { dayOf, instantFromText, toWall, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import {
  changedBrief,
  secondOf,
  withGuest,
  withoutMember,
  withPeople,
  withPlaceTurned,
  withRequiredTurned,
} from './changed-brief.ts'
import { holdsUntil } from './hold-button.tsx'
import { laneNumbers } from './lane-numbers.ts'
import { blockerWords, changeWords, helpWords, listed, type Names, needWords, whyWords } from './words.ts'

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

describe('whom a brief asks', () => {
  const brief = { ...emptyBrief(20_000, 'ilse'), ...withPeople(emptyBrief(20_000, 'ilse'), ['tashi']) }
  const guest = { name: 'Noor', address: 'noor@lodestar.example' }

  it('asks nobody twice, and is not changed by it', () => {
    expect(brief.people.map((one) => one.id)).toEqual(['ilse', 'tashi'])
    expect(withPeople(brief, ['tashi', 'ilse'])).toEqual({})
    const asked = { ...brief, ...withGuest(brief, guest) }
    expect(asked.guests).toEqual([{ ...guest, required: true }])
    expect(withGuest(asked, guest)).toEqual({})
  })
  it('makes one optional and required again, a guest too, and lets go of both', () => {
    const asked = { ...brief, ...withGuest(brief, guest) }
    const turned = { ...asked, ...withRequiredTurned(asked, 'tashi') }
    expect(turned.people.map((one) => one.required)).toEqual([true, false])
    expect(turned.guests[0]?.required).toBe(true)
    expect(withRequiredTurned(turned, guest.address).guests?.[0]?.required).toBe(false)
    expect(withoutMember(turned, 'tashi')).toMatchObject({ people: [{ id: 'ilse' }], guests: [{}] })
    expect(withoutMember(turned, guest.address).guests).toEqual([])
  })
  it('wants a place, and then does not', () => {
    const wanted = { ...brief, ...withPlaceTurned(brief, 'serac') }
    expect(wanted.places).toEqual(['serac'])
    expect(withPlaceTurned(wanted, 'serac').places).toEqual([])
  })
})

describe('who is in the way, in words', () => {
  it('says until when, by the day that is lost last or by the hour', () => {
    const away = blocker('tashi', 'away', { since: at('2026-11-30T00:00'), until: at('2026-12-15T00:00') })
    expect(blockerWords(away, names)).toBe('Tashi is away until Mon 14 Dec')
    const busy = blocker('tashi', 'busy', { since: at('2026-12-03T09:00'), until: at('2026-12-03T10:30') })
    expect(blockerWords(busy, names)).toBe('Tashi is busy until 10:30')
    // A day that is all taken is no reason to name its own end.
    const wholeDay = { ...away, since: at('2026-12-14T00:00'), until: at('2026-12-15T00:00') }
    expect(blockerWords(wholeDay, names)).toBe('Tashi is away all day')
    expect(blockerWords({ ...wholeDay, title: 'Losar' }, names)).toBe('Tashi is away: Losar')
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
    expect(helpWords({ changes, openings: 3 }, names)).toBe(
      'Make Aroha optional and allow 45 min outside hours',
    )
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

describe('what is asked of places, in words', () => {
  it('says how many of what, where, and with how many of which feature', () => {
    const room = { kind: 'room', siteId: null, least: 1, count: 1, seats: null, features: {} } as const
    expect(needWords(room, names)).toBe('a room on each site')
    expect(needWords({ ...room, siteId: 'nairobi', count: 2 }, names)).toBe('2 rooms in nairobi')
    expect(needWords({ ...room, kind: 'lab', features: { screens: 2, camera: 1 } }, names)).toBe(
      'a lab on each site with 2 screens and camera',
    )
    expect(needWords({ ...room, kind: 'equipment', siteId: 'dunedin' }, names)).toBe('equipment in dunedin')
  })
})

describe('a meeting split in two', () => {
  const brief = {
    ...emptyBrief(20_780, 'ilse'),
    title: 'Heads',
    start: at('2026-12-03T10:00'),
    guests: [{ address: 'mira@firn.example', name: 'Mira', required: true }],
    people: ['ilse', 'tashi', 'aroha', 'declan'].map((id) => ({ id, required: true, group: null })),
  }
  const split: Change = { kind: 'split', first: ['tashi'], second: ['aroha', 'declan'] }

  it('leaves the first half in hand and keeps the second, its organizer in both, its guests in one', () => {
    const first = changedBrief(brief, [split])
    const second = secondOf(brief, [split], 'ilse')
    expect(first.people?.map((one) => one.id)).toEqual(['ilse', 'tashi'])
    expect(second?.people.map((one) => one.id)).toEqual(['ilse', 'aroha', 'declan'])
    expect(second).toMatchObject({ title: 'Heads', start: null, hold: null, guests: [] })
  })

  it('has no second half when nothing was split', () => {
    expect(secondOf(brief, [{ kind: 'shorten', minutes: 15 }], 'ilse')).toBeNull()
  })
})

describe('lanes for the worker', () => {
  const time = (zone: string) => ({ zone, known: true, hours: [], spans: [], outside: 'outside' as const })
  const brief = (people: readonly { id: string; time: ReturnType<typeof time> }[]) => ({
    people: people.map((one) => ({ ...one, required: true })),
    minutes: 30,
    from: 0,
    to: 1,
    step: 15,
    zone: 'UTC',
    now: 0,
    rules: relaxed(emptyBrief(0, 'x').rules, { kind: 'lunch' }),
  })

  it('travel once as long as they are asked for, again when they changed or had been let go', () => {
    const number = laneNumbers()
    const [ilse, tashi] = [time('Europe/Vienna'), time('Asia/Kathmandu')]
    const both = brief([
      { id: 'ilse', time: ilse },
      { id: 'tashi', time: tashi },
    ])
    const first = number(both)
    expect(first.lanes.map(([, lane]) => lane)).toEqual([ilse, tashi])
    expect(first.brief.people.map((one) => one.lane)).toEqual(first.lanes.map(([at]) => at))
    expect(JSON.stringify(first.brief)).not.toContain('Kathmandu')
    expect(number(both).lanes).toEqual([])
    expect(number(brief([{ id: 'ilse', time: ilse }])).lanes).toEqual([])
    expect(number(both).lanes.map(([, lane]) => lane)).toEqual([tashi])
    const changed = time('Asia/Kathmandu')
    expect(number(brief([{ id: 'tashi', time: changed }])).lanes.map(([, lane]) => lane)).toEqual([changed])
  })
})

describe('holding for longer', () => {
  const zone = zoneTable('Europe/Vienna')
  const words = (now: string, start: string) =>
    holdsUntil({ zone, now: at(now), today: dayOf(toWall(zone, at(now))), start: at(start) }).map(
      (each) => each.words,
    )

  it('offers evenings that are still to come and before the time itself, each once', () => {
    expect(words('2026-11-23T09:00', '2026-12-15T10:00')).toEqual([
      'this evening',
      'tomorrow evening',
      'Fri 27 Nov, 18:00',
      'Mon 30 Nov, 18:00',
      'Sun 6 Dec, 18:00',
    ])
    expect(words('2026-11-23T19:00', '2026-11-26T10:00')).toEqual(['tomorrow evening'])
    expect(words('2026-11-23T09:00', '2026-11-23T10:00')).toEqual([])
  })

  it('names a Friday that is today or tomorrow once', () => {
    expect(words('2026-11-27T09:00', '2026-12-01T10:00')).toEqual(['this evening', 'tomorrow evening'])
  })
})
