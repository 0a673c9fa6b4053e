import { emptyBrief } from '@marmot/contract/briefs'
import { zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { briefOfWish, lackingIn, siteBySite } from './room-then.ts'

const HOME = 'innsbruck'
const START = Date.parse('2026-12-02T10:00:00Z')
const chosen = { start: START, end: START + 3_600_000 }
const aPlace = (id: string, seats: number, more: object = {}) => ({
  resource: {
    id,
    name: id,
    kind: 'room',
    siteId: HOME,
    site: 'Innsbruck',
    floor: '1',
    seats,
    features: {},
    about: '',
    ...more,
  },
})
const PLACES = [
  aPlace('serac', 6),
  aPlace('hall', 60),
  aPlace('col', 12, { features: { screen: 2 } }),
  aPlace('far', 12, { siteId: 'nairobi' }),
  aPlace('cold', 12, { kind: 'lab' }),
]
const placed = (more: object = {}) => ({
  chosen,
  judged: null,
  placeReasons: [],
  placesById: new Map(PLACES.map((one) => [one.resource.id, one])),
  roomsAt: () => [],
  seats: () => 8,
  me: { siteId: HOME },
  ...more,
})
const reason = (id: string, free: boolean) => ({ place: { id, siteId: HOME }, free })
const NEED = { kind: 'room' as const, siteId: null, least: 1, count: 1, seats: null, features: {} }

describe('places that are free', () => {
  it('are offered one of each city first, but where there is one already', () => {
    const at = (id: string, siteId: string) => ({ id, siteId })
    const free = [at('serac', HOME), at('col', HOME), at('tarn', 'nairobi'), at('kame', 'st-johns')]
    const names = (taken: { siteId: string }[]) => siteBySite(free, taken).map((one) => one.id)
    expect(names([])).toEqual(['serac', 'tarn', 'kame', 'col'])
    expect(names([{ siteId: HOME }])).toEqual(['tarn', 'kame', 'serac', 'col'])
  })
})

describe('the one place that is missing', () => {
  it('is the particular one that is taken; of two, others are not asked', () => {
    const places = ['serac', 'hall']
    const one = placed({ placeReasons: [reason('serac', false), reason('hall', true)] })
    expect(lackingIn(one, { needs: [], places })).toEqual({ placeIds: ['serac'], seats: 8 })
    const two = placed({ placeReasons: [reason('serac', false), reason('hall', false)] })
    expect(lackingIn(two, { needs: [], places })).toBeNull()
  })

  it('is a room for all who are at home, the tightest first, where none is free', () => {
    expect(lackingIn(placed(), { needs: [], places: [] })).toEqual({ placeIds: ['col', 'hall'], seats: 8 })
    expect(lackingIn(placed({ roomsAt: () => ['col'] }), { needs: [], places: [] })).toBeNull()
    expect(lackingIn(placed({ chosen: null }), { needs: [], places: [] })).toBeNull()
    expect(lackingIn(placed({ seats: () => 100 }), { needs: [], places: [] })).toBeNull()
  })

  it('is what is needed, as it is needed', () => {
    const needs = [{ ...NEED, features: { screen: 2 } }]
    const lacks = placed({ judged: { places: { lacking: 1 } } })
    expect(lackingIn(lacks, { needs, places: [] })).toEqual({ placeIds: ['col'], seats: 8 })
    const there = [{ ...NEED, siteId: 'nairobi', seats: 10 }]
    expect(lackingIn(lacks, { needs: there, places: [] })).toEqual({ placeIds: ['far'], seats: 10 })
    expect(lackingIn(placed({ judged: { places: { lacking: 0 } } }), { needs, places: [] })).toBeNull()
    expect(lackingIn(lacks, { needs: [...needs, NEED], places: [] })).toBeNull()
  })
})

describe('what was to be sent once there was room', () => {
  const zone = zoneTable('Europe/Vienna')
  const wish = {
    title: 'Talk',
    note: '<p>With <b>slides</b></p>',
    minutes: 60,
    people: [{ id: 'tashi', required: false }],
    guests: [{ address: 'noor@lodestar.example', name: 'Noor', required: true }],
    places: ['hall'],
    agenda: [
      { title: 'Welcome', who: 'Tashi', minutes: 5 },
      { title: 'Questions', who: '', minutes: null },
    ],
  }

  it('is in hand again with all of it, at the same time', () => {
    const far = START + 60 * 86_400_000
    const brief = briefOfWish(wish, far, { now: START, zone, me: 'ilse' })
    expect(brief).toMatchObject({
      title: 'Talk',
      note: 'With slides',
      agenda: 'Welcome, Tashi, 5 min\nQuestions',
      people: [
        { id: 'ilse', required: true, group: null },
        { id: 'tashi', required: false, group: null },
      ],
      guests: wish.guests,
      places: ['hall'],
      start: far,
    })
    // Its time is within the window.
    expect(brief.toDay).toBeGreaterThan(Math.floor(far / 86_400_000))
    expect(emptyBrief(0, 'henrike').people).toEqual(
      briefOfWish({ ...wish, people: [], of: 'henrike' }, START, { now: START, zone, me: 'ilse' }).people,
    )
  })
})
