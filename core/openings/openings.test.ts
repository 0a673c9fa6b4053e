import { describe, expect, it } from 'vitest'
import { datesWithin, readWalls } from '../recurrence/index.ts'
import { DAY, dayOf, MINUTE, toWall, wallFromText, wallText, zoneTable } from '../time/index.ts'
import {
  type Asked,
  answerBrief,
  answering,
  applyChange,
  BadBrief,
  judge,
  minutesOf,
  nextDayWithOpening,
  nextOpening,
  openingsByDay,
  reasonsFor,
  ribbonFill,
  type SearchBrief,
  searchOpenings,
  searchSeries,
  seriesAt,
  seriesRule,
  seriesWalls,
  USUAL_RULES,
} from './index.ts'
import { aRoom, asked, at, brief, busy, office, room, rooms, VIENNA, words } from './samples.ts'

describe('openings', () => {
  it('lie where all are inside their hours', () => {
    const found = searchOpenings(brief([asked('ilse'), asked('wanjiru', 'Africa/Nairobi')]))
    expect(found.bands.map((band) => [words(band.start), words(band.end), band.stretch])).toEqual([
      ['2026-12-03T08:00', '2026-12-03T15:00', 0],
      ['2026-12-04T08:00', '2026-12-04T15:00', 0],
    ])
  })

  it('stretch people no further than the rule allows, and say whom', () => {
    const people = [asked('ilse'), asked('tashi', 'Asia/Kathmandu'), asked('declan', 'America/St_Johns')]
    expect(searchOpenings(brief(people)).starts).toBe(0)
    // Kathmandu ends at 12:15 and St. John's begins at 12:30 in Vienna: an hour costs the two of them 75 minutes.
    const stretched = searchOpenings(brief(people, { rules: { ...USUAL_RULES, stretch: 45 } }))
    const [best] = stretched.openings
    expect(minutesOf(best?.parts.stretch ?? [])).toBe(75)
    const reasons = reasonsFor(people, best ?? { start: 0, end: 0 }).map((reason) => reason.how.stretch)
    expect(reasons.reduce((sum, each) => sum + each, 0)).toBe(75)
  })

  it.each([5, 15, 60])('never lie in what lasts for ever, at steps of %d minutes', (step) => {
    const on = (start: string, end: string) => [
      { start: Date.parse(start), end: Date.parse(end), state: 'away' as const },
    ]
    const starts = (spans: Asked['time']['spans']) =>
      searchOpenings(brief([asked('ilse', VIENNA, { spans })], { step })).starts
    expect(starts([])).toBeGreaterThan(0)
    expect(starts(on('2026-11-01T00:00Z', '9999-12-31T00:00Z'))).toBe(0)
    expect(starts([{ start: -8.64e15, end: 8.64e15, state: 'away' }])).toBe(0)
    expect(starts([{ start: -8.64e15, end: at('2026-12-01T00:00'), state: 'away' }])).toBe(starts([]))
  })

  it('spare those who were stretched most lately, and say so', () => {
    const people = [asked('ilse'), asked('tashi', 'Asia/Kathmandu'), asked('declan', 'America/St_Johns')]
    const rules = { ...USUAL_RULES, stretch: 90 }
    const spared = (past: Record<string, number>) => {
      const [best] = searchOpenings(brief(people, { rules, past })).openings
      return [best?.parts.spared, best?.parts.stretch.map((share) => share.id)]
    }
    expect(spared({ tashi: 600 })).toEqual([['tashi'], ['declan']])
    expect(spared({ declan: 600 })).toEqual([['declan'], ['tashi']])
  })

  it('count the unknown apart and never as free', () => {
    const found = searchOpenings(
      brief([asked('ilse'), asked('renata', 'America/Santiago', { known: false })]),
    )
    expect(found.unknown).toEqual(['renata'])
    expect(found.openings.length).toBeGreaterThan(0)
    const group = brief([asked('ilse'), { ...asked('renata', VIENNA, { known: false }), group: 'g' }], {
      groups: [{ id: 'g', name: 'Any of them', atLeast: 1 }],
    })
    expect(searchOpenings(group).starts).toBe(0)
  })

  it('say who of the optional is missing and rank those openings later', () => {
    const spans = [busy('2026-12-03T08:00', '2026-12-03T12:00')]
    const found = searchOpenings(brief([asked('ilse'), asked('matteo', VIENNA, { spans }, false)]))
    expect(found.openings[0]).toMatchObject({ start: at('2026-12-03T12:00') })
    expect(found.openings.at(-1)?.parts.missing).toEqual(['matteo'])
  })

  it('leave lunch alone unless it may be used', () => {
    const hours = office.flatMap((part) => [
      { ...part, to: 720 },
      { ...part, from: 780 },
    ])
    const people = [
      asked('ilse', VIENNA, {
        hours,
        spans: [busy('2026-12-03T00:00', '2026-12-03T11:30'), busy('2026-12-03T13:30', '2026-12-05T00:00')],
      }),
    ]
    expect(searchOpenings(brief(people)).starts).toBe(0)
    const [used] = searchOpenings(brief(people, { rules: { ...USUAL_RULES, lunch: false } })).openings
    expect(used?.parts).toMatchObject({ stretch: [], lunch: [{ id: 'ilse', minutes: 30 }] })
  })

  it('can be walked forward and back, by opening and by day, and shown a day at a time', () => {
    const spans = [busy('2026-12-03T10:00', '2026-12-03T12:00')]
    const { openings, bands } = searchOpenings(brief([asked('ilse', VIENNA, { spans })]))
    const first = nextOpening(openings, at('2026-12-03T00:00'), 1)
    expect(words(first?.start ?? 0)).toBe('2026-12-03T08:00')
    expect(words(nextOpening(openings, first?.start ?? 0, 1)?.start ?? 0)).toBe('2026-12-03T12:00')
    expect(words(nextDayWithOpening(openings, VIENNA, first?.start ?? 0, 1)?.start ?? 0)).toBe(
      '2026-12-04T08:00',
    )
    expect(nextOpening(openings, first?.start ?? 0, -1)).toBeNull()
    expect(
      openingsByDay(openings, VIENNA, 5)
        .map((day) => day.others.length)
        .sort(),
    ).toEqual([0, 1])
    const day = Math.floor(Date.UTC(2026, 11, 3) / DAY)
    expect([...ribbonFill(bands, VIENNA, day - 1, 4)]).toEqual([0, 0.875, 1, 0])
  })

  it('are looked for in short steps: each zone by itself, and fifty people at a time', () => {
    const stepsFor = (people: Asked[]) => {
      const steps = answering(brief(people), 'ilse', at('2027-01-01T00:00'))
      let count = 0
      while (!steps.next().done) count++
      return count
    }
    const one = stepsFor([asked('ilse')])
    expect(stepsFor([asked('ilse'), asked('wanjiru', 'Africa/Nairobi'), asked('zoë')])).toBe(one + 1)
    expect(stepsFor([asked('ilse'), ...Array.from({ length: 150 }, (_, i) => asked(`p${i}`))])).toBe(one + 3)
  })

  it('start on the organizer’s clock, whatever the offset', () => {
    const found = searchOpenings(
      brief([asked('tashi', 'Asia/Kathmandu')], { zone: 'Asia/Kathmandu', step: 60 }),
    )
    expect(new Date(found.openings[0]?.start ?? 0).getUTCMinutes()).toBe(15)
  })

  it.each([
    ['nobody-required', { people: [] }],
    ['same-person-twice', { people: [asked('ilse'), asked('ilse')] }],
    ['too-many-people', { people: Array.from({ length: 2000 }, (_, i) => asked(`p${i}`)) }],
    ['bad-length', { minutes: 0 }],
    ['longer-than-window', { minutes: 3 * 1440 }],
    ['bad-step', { step: 7 }],
    ['no-window', { to: at('2026-12-01T00:00') }],
    ['window-past', { now: at('2026-12-05T00:00') }],
    ['window-too-long', { to: at('2036-12-01T00:00') }],
    ['bad-zone', { zone: 'Mars/Olympus' }],
    ['bad-rules', { rules: { ...USUAL_RULES, weekdays: [] } }],
    ['bad-rules', { rules: { ...USUAL_RULES, earliest: 600, latest: 630 } }],
    ['group-too-small', { groups: [{ id: 'g', name: 'Nobody', atLeast: 1 }] }],
    ['no-such-place', { places: rooms([], [], { ids: ['gone'] }) }],
    ['too-many-places', { places: rooms([], [{ ...aRoom, count: 9 }]) }],
  ] as const)('are refused with the code %s', (code, more) => {
    const search = () => searchOpenings(brief([asked('ilse')], more as Partial<SearchBrief>))
    expect(search).toThrow(expect.objectContaining({ code }))
    expect(search).toThrow(BadBrief)
  })
})

describe('places', () => {
  it('are matched together: the first that fits is not taken from one who needs it', () => {
    const screens = { ...aRoom, siteId: VIENNA, seats: 2, features: { screens: 1 } }
    const any = { ...aRoom, siteId: VIENNA, seats: 2 }
    const all = [room('Serac', { features: { screens: 1 } }), room('Col')]
    const found = searchOpenings(brief([asked('ilse')], { places: rooms(all, [any, screens]) }))
    expect(found.openings[0]?.parts.places?.places).toEqual(['Col', 'Serac'])
    expect(searchOpenings(brief([asked('ilse')], { places: rooms(all, [screens, screens]) })).starts).toBe(0)
  })

  it('give each site a room that fits how many are there, the tightest', () => {
    const people = [asked('ilse'), asked('matteo'), asked('wanjiru', 'Africa/Nairobi')]
    const all = [
      room('Hall', { seats: 40 }),
      room('Col', { seats: 3 }),
      room('Nook', { seats: 1 }),
      room('Acacia', { siteId: 'Africa/Nairobi', seats: 4 }),
    ]
    const [best] = searchOpenings(brief(people, { places: rooms(all, [aRoom]) })).openings
    expect(best?.parts.places?.places).toEqual(['Col', 'Acacia'])
    expect(best?.parts.places).toMatchObject({ seatsWasted: 4, lacking: 0 })
  })

  it('are missing, not in the way, when they need not be had', () => {
    const places = rooms([room('Col', { seats: 1 })], [{ ...aRoom, seats: 4 }], { must: false })
    const [best] = searchOpenings(brief([asked('ilse')], { places })).openings
    expect(best?.parts.places).toMatchObject({ places: [null], lacking: 1 })
  })
})

describe('why there is none', () => {
  const answer = (given: SearchBrief) => answerBrief(given, 'ilse', given.to + 28 * DAY)

  it('names whoever is away, since when and until when', () => {
    const spans = [busy('2026-11-30T00:00', '2026-12-14T00:00', 'away')]
    const { why, days } = answer(brief([asked('ilse'), asked('tashi', VIENNA, { spans })]))
    expect(why?.people).toEqual([
      {
        id: 'tashi',
        kind: 'away',
        since: at('2026-11-30T00:00'),
        until: at('2026-12-14T00:00'),
        title: null,
      },
    ])
    expect(days.map((day) => day.people.map((one) => one.id))).toEqual([['tashi'], ['tashi']])
  })

  it('names those whose hours do not meet, and the rule that leaves no day', () => {
    const apart = answer(brief([asked('ilse'), asked('aroha', 'Pacific/Auckland')]))
    expect(apart.why?.people.map((one) => [one.id, one.kind])).toEqual(
      expect.arrayContaining([
        ['ilse', 'hours'],
        ['aroha', 'hours'],
      ]),
    )
    expect(answer(brief([asked('ilse')], { rules: { ...USUAL_RULES, weekdays: [7] } })).why?.rule).toBe(
      'weekdays',
    )
    const soon = { ...USUAL_RULES, notice: 14 * 1440 }
    expect(answer(brief([asked('ilse')], { rules: soon })).why?.rule).toBe('notice')
  })

  it('names the place when everybody could come', () => {
    const places = rooms([room('Col', { seats: 1 })], [{ ...aRoom, siteId: VIENNA, seats: 4 }])
    const { why } = answer(brief([asked('ilse')], { places }))
    expect(why?.people).toEqual([])
    expect(why?.places).toMatchObject([{ siteId: VIENNA, seats: 4 }])
  })

  it('is told of a chosen time as well, rule by rule', () => {
    const spans = [busy('2026-12-03T09:00', '2026-12-03T10:00')]
    const given = brief([asked('ilse'), asked('tashi', 'Asia/Kathmandu', { spans })], {
      rules: { ...USUAL_RULES, before: 30, mostADay: 5 },
    })
    const kinds = (start: string) =>
      judge(given, { start: at(start), end: at(start) + 60 * MINUTE }).blockers.map((one) => [
        one.id,
        one.kind,
      ])
    expect(kinds('2026-12-03T09:30')).toEqual([['tashi', 'busy']])
    expect(kinds('2026-12-03T10:15')).toEqual([['tashi', 'gap']])
    expect(kinds('2026-12-03T11:00')).toEqual([])
    expect(kinds('2026-12-03T16:30')).toEqual([
      ['ilse', 'hours'],
      ['tashi', 'hours'],
    ])
  })
})

describe('what would help', () => {
  const help = (given: SearchBrief, knownTo = given.to) => answerBrief(given, 'ilse', knownTo).help

  it('is the smallest stretch, and pressing it gives what was promised', () => {
    const given = brief([
      asked('ilse'),
      asked('tashi', 'Asia/Kathmandu'),
      asked('declan', 'America/St_Johns'),
    ])
    const [first] = help(given)
    expect(first).toMatchObject({ changes: [{ kind: 'stretch', minutes: 45 }] })
    const tried = (first?.changes ?? []).reduce(applyChange, given)
    expect(searchOpenings(tried).openings).toHaveLength(first?.openings ?? 0)
  })

  it('is one who can be left optional, and never the organizer', () => {
    const spans = [busy('2026-11-30T00:00', '2026-12-14T00:00', 'away')]
    const given = brief([asked('ilse'), asked('tashi', VIENNA, { spans })])
    expect(help(given).map((each) => each.changes)).toEqual([[{ kind: 'optional', id: 'tashi' }]])
    const mine = brief([asked('ilse', VIENNA, { spans }), asked('tashi')])
    expect(help(mine)).toEqual([])
    expect(help(mine, mine.to + 28 * DAY).map((each) => each.changes)).toEqual([
      [{ kind: 'later', days: 14 }],
    ])
  })

  it('is a pair where no single change helps, and two meetings for people far apart', () => {
    const all = [
      asked('ilse'),
      asked('wanjiru', 'Africa/Nairobi'),
      asked('tashi', 'Asia/Kathmandu'),
      asked('declan', 'America/St_Johns'),
      asked('aroha', 'Pacific/Auckland'),
    ]
    const found = help(brief(all, { to: at('2026-12-10T00:00') }))
    expect(found[0]?.changes).toEqual([
      { kind: 'optional', id: 'aroha' },
      { kind: 'stretch', minutes: 45 },
    ])
    const cross = brief([
      asked('ilse'),
      asked('tashi', 'Asia/Kathmandu'),
      asked('declan', 'America/St_Johns'),
    ])
    const halves = help(cross).find((each) => each.changes[0]?.kind === 'split')
    expect(halves?.changes[0]).toEqual({ kind: 'split', first: ['tashi'], second: ['declan'] })
    expect(halves?.second).toBeGreaterThan(0)
  })

  it('is another site, a smaller room, or none', () => {
    const places = rooms(
      [room('Col', { seats: 2 }), room('Acacia', { siteId: 'Africa/Nairobi', seats: 8 })],
      [{ ...aRoom, siteId: VIENNA, seats: 6 }],
    )
    expect(help(brief([asked('ilse')], { places })).map((each) => each.changes[0]?.kind)).toEqual([
      'seats',
      'site',
      'no-places',
    ])
  })

  it('comes in steps that tell how much is done, the openings of a shorter window first', () => {
    const given = brief([asked('ilse'), asked('aroha', 'Pacific/Auckland')])
    const shares = [...answering(given, 'ilse', given.to)].flatMap((step) => step?.share ?? [])
    expect(shares.length).toBeGreaterThan(3)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect(shares.at(-1)).toBeLessThanOrEqual(1)
  })
})

describe('a series', () => {
  const rule = { every: 2, unit: 'week' as const, count: 12 }
  const from = at('2027-01-18T00:00')
  const given = (people: Asked[], more: Partial<SearchBrief> = {}) =>
    brief(people, { from, to: from + 14 * DAY, now: from, ...more })

  it('is laid where the fewest dates clash, on the clock on the wall through both changes of clocks', () => {
    const clash = (text: string) => ({ start: at(text), end: at(text) + 60 * MINUTE, state: 'busy' as const })
    // Every hour of the day is taken on one of the dates or another, but for Tuesdays at ten, on two of them.
    const full = searchSeries(given([asked('ilse')]), rule)[0]
    expect(full).toMatchObject({ clashes: 0 })
    expect(full?.dates.map((date) => wallText(date.recurrence).slice(11))).toEqual(Array(12).fill('08:00'))
    const tuesdays = seriesWalls(rule, wallFromText('2027-01-19T10:00') ?? 0).map((wall) => wallText(wall))
    expect(tuesdays.slice(-2)).toEqual(['2027-06-08T10:00', '2027-06-22T10:00'])
    const spans = [clash(tuesdays[3] ?? ''), clash(tuesdays[6] ?? '')]
    const slot = seriesAt(given([asked('ilse', VIENNA, { spans })]), rule, at('2027-01-19T10:00'))
    expect(slot.clashes).toBe(2)
    const wrong = slot.dates.filter((date) => date.blockers.length > 0)
    expect(wrong.map((date) => wallText(date.recurrence))).toEqual([tuesdays[3], tuesdays[6]])
    expect(wrong[0]?.repairs.map((repair) => [repair.kind, words(repair.start)])).toEqual([
      ['time', '2027-03-02T09:00'],
      ['day', '2027-03-01T10:00'],
    ])
  })

  it('keeps its place where that is free and takes another where it is not', () => {
    const wall = wallFromText('2027-01-19T10:00') ?? 0
    const third = toWall(zoneTable(VIENNA), seriesWalls(rule, wall)[2] ?? 0)
    const start = at(wallText(seriesWalls(rule, wall)[2] ?? 0))
    expect(third).toBeGreaterThan(0)
    const taken = {
      ...room('Col').time,
      spans: [{ start, end: start + 60 * MINUTE, state: 'busy' as const }],
    }
    const all = [room('Col', { time: taken, seats: 4 }), room('Firn', { seats: 8 })]
    const needs = [{ ...aRoom, siteId: VIENNA, seats: 2 }]
    const slot = seriesAt(given([asked('ilse')], { places: rooms(all, needs) }), rule, at('2027-01-19T10:00'))
    expect(slot.places).toEqual(['Firn'])
    const kept = rooms(all, [], { ids: ['Col'] })
    const repaired = seriesAt(given([asked('ilse')], { places: kept }), rule, at('2027-01-19T10:00'))
    expect(repaired.dates.filter((date) => date.placesTaken.length > 0)).toMatchObject([
      { start, repairs: [{ kind: 'place', instead: ['Firn'] }, { kind: 'time' }, { kind: 'day' }] },
    ])
  })

  it.each([
    [{ every: 2, unit: 'week', count: 12 }, '2027-01-19T10:00'],
    [{ every: 1, unit: 'month', count: 9 }, '2027-01-29T10:00'],
    [{ every: 3, unit: 'month', count: 5 }, '2027-01-12T10:00'],
  ] as const)('has the dates of its rule: %o', (each, first) => {
    const wall = wallFromText(first) ?? 0
    const series = {
      starts: wall,
      minutes: 60,
      allDay: false,
      rule: seriesRule(each, dayOf(wall)),
      added: readWalls([]),
      excepted: readWalls([]),
    }
    expect(seriesWalls(each, wall)).toEqual(
      datesWithin(series, zoneTable(VIENNA), wall, wall + 4 * 366 * DAY).slice(0, each.count),
    )
  })
})
