import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { MINUTE } from '../time/index.ts'
import { bitAt } from './bits.ts'
import type { SearchPlace } from './brief.ts'
import { gridOf, indexFrom, startOf } from './grid.ts'
import {
  assignPlaces,
  featuresMissing,
  headcount,
  mayBeNeeded,
  placeRow,
  placeRowsOf,
  placesAt,
  slotsOf,
} from './places.ts'
import { aRoom, asked, at, brief, busy, room, rooms, VIENNA } from './samples.ts'

const NAIROBI = 'Africa/Nairobi'

describe('what a brief asks of places', () => {
  const people = [asked('ilse'), asked('matteo'), asked('henrike'), asked('wanjiru', NAIROBI)]
  const all = [
    room('Col'),
    room('Nook', { seats: 1 }),
    room('Acacia', { siteId: NAIROBI }),
    room('Lab', { kind: 'lab' }),
  ]
  const slots = (needs: Parameters<typeof rooms>[1], more: object = {}) =>
    slotsOf({ people, places: rooms(all, needs, more) })
  const namesOf = (slot: { places: readonly number[] } | undefined) => slot?.places.map((i) => all[i]?.id)

  it('counts people by site, and guests where the organizer is', () => {
    const places = rooms(all, [], { guests: 2 })
    expect([...headcount({ people, places })]).toEqual([
      [VIENNA, 5],
      [NAIROBI, 1],
    ])
  })

  it('is a slot on each site where enough people are, as large as they are many', () => {
    expect(slots([aRoom]).map((slot) => [slot.siteId, slot.seats])).toEqual([
      [VIENNA, 3],
      [NAIROBI, 1],
    ])
    expect(slots([{ ...aRoom, least: 2 }]).map((slot) => slot.siteId)).toEqual([VIENNA])
  })

  it('shares people out among several places of one need, rounded up', () => {
    const two = slots([{ ...aRoom, siteId: VIENNA, count: 2 }])
    expect(two.map((slot) => slot.seats)).toEqual([2, 2])
  })

  it('offers no place that is too small, of another kind or site, not to be taken, or asked for by itself', () => {
    const need = { ...aRoom, siteId: VIENNA }
    expect(namesOf(slots([need])[0])).toEqual(['Col'])
    expect(namesOf(slots([{ ...need, seats: 1 }])[0])).toEqual(['Col', 'Nook'])
    expect(namesOf(slots([{ ...need, kind: 'lab' }])[0])).toEqual(['Lab'])
    const particular = slots([{ ...need, seats: 1 }], { ids: ['Col'] })
    expect(particular.map(namesOf)).toEqual([['Col'], ['Nook']])
    const closed = all.map((place) => ({ ...place, mayTake: place.id !== 'Col' }))
    expect(slotsOf({ people, places: rooms(closed, [need]) })[0]?.places).toEqual([])
  })

  it('needs to know of nothing but what it may take: its needs where people are, what was named, and the like of that', () => {
    const near = [...all, room('Drone 1', { kind: 'equipment' }), room('Drone 2', { kind: 'equipment' })]
    const needed = (needs: Parameters<typeof rooms>[1], ids: readonly string[] = []) =>
      mayBeNeeded({ needs, ids }, new Set([VIENNA]), near).map((place) => place.id)
    expect(needed([])).toEqual([])
    expect(needed([aRoom])).toEqual(['Col', 'Nook'])
    expect(needed([{ ...aRoom, siteId: NAIROBI }])).toEqual(['Acacia'])
    expect(needed([], ['Acacia'])).toEqual(['Acacia'])
    expect(needed([], ['Drone 1'])).toEqual(['Drone 1', 'Drone 2'])
  })

  it('asks equipment for no seats', () => {
    const scanner = room('Scanner', { kind: 'equipment', seats: 0 })
    const places = rooms([scanner], [{ ...aRoom, kind: 'equipment', siteId: VIENNA }])
    expect(slotsOf({ people, places })[0]?.places).toEqual([0])
  })

  it('holds features against a place only where they must be had', () => {
    const need = { ...aRoom, siteId: VIENNA, seats: 2, features: { screens: 2 } }
    expect(namesOf(slots([need])[0])).toEqual([])
    expect(namesOf(slots([need], { must: false })[0])).toEqual(['Col'])
    expect(featuresMissing({ screens: 2, camera: 1 }, room('Col', { features: { screens: 1 } }))).toBe(2)
  })
})

describe('when a place can be had', () => {
  const day = { from: at('2026-12-03T00:00'), to: at('2026-12-04T00:00') }
  const free = (place: SearchPlace, start: string) => {
    const grid = gridOf(brief([asked('ilse')], day))
    return bitAt(placeRow(grid, place), indexFrom(grid, at(start)))
  }

  it('is inside its hours, whole', () => {
    const time = { ...room('Col').time, hours: [{ weekday: 4, from: 480, to: 1080 }] }
    const col = room('Col', { time })
    expect(['07:45', '08:00', '17:00', '17:15'].map((clock) => free(col, `2026-12-03T${clock}`))).toEqual([
      false,
      true,
      true,
      false,
    ])
  })

  it('leaves its turnaround after each use, before the next one too', () => {
    const time = { ...room('Col').time, spans: [busy('2026-12-03T10:00', '2026-12-03T11:00')] }
    const col = room('Col', {
      turnaround: 15,
      time: { ...time, spans: [busy('2026-12-03T10:00', '2026-12-03T11:15')] },
    })
    expect(free(col, '2026-12-03T08:45')).toBe(true)
    expect(free(col, '2026-12-03T09:00')).toBe(false)
    expect(free(room('Col', { time }), '2026-12-03T09:00')).toBe(true)
    expect(free(col, '2026-12-03T11:15')).toBe(true)
  })

  it('is not while it is closed', () => {
    const closed = [{ start: at('2026-12-03T12:00'), end: at('2026-12-03T14:00'), reason: 'in repair' }]
    const col = room('Col', { time: { ...room('Col').time, closed } })
    expect(free(col, '2026-12-03T11:00')).toBe(true)
    expect(free(col, '2026-12-03T11:15')).toBe(false)
    expect(free(col, '2026-12-03T14:00')).toBe(true)
  })
})

/** Every way to give the slots places of their own, or none. */
const everyWay = (
  slots: readonly (readonly number[])[],
  taken: readonly number[] = [],
): (number | null)[][] => {
  const [first, ...rest] = slots
  if (!first) return [[]]
  const choices = [null, ...first.filter((index) => !taken.includes(index))]
  return choices.flatMap((index) =>
    everyWay(rest, index === null ? taken : [...taken, index]).map((others) => [index, ...others]),
  )
}

const floor = fc.constantFrom('0', '1', '2', '5', '')
const someRooms = fc.array(
  fc.record({ seats: fc.integer({ min: 1, max: 12 }), floor, screens: fc.integer({ min: 0, max: 2 }) }),
  { minLength: 1, maxLength: 5 },
)
const someSlots = fc.array(
  fc.record({ seats: fc.integer({ min: 0, max: 6 }), screens: fc.integer({ min: 0, max: 2 }) }),
  { minLength: 1, maxLength: 3 },
)

describe('places together', () => {
  it('are the cheapest of all ways, none of them twice', () => {
    fc.assert(
      fc.property(someRooms, someSlots, fc.infiniteStream(fc.boolean()), (given, wanted, coin) => {
        const all = given.map(({ screens, ...more }, i) => room(`r${i}`, { ...more, features: { screens } }))
        const freeOnes = new Set(all.flatMap((_, i) => (coin.next().value ? [i] : [])))
        const slots = wanted.map(({ seats, screens }) => ({
          siteId: VIENNA,
          seats,
          features: { screens },
          places: all.flatMap((place, i) => (place.seats >= seats ? [i] : [])),
        }))
        const storeys = (way: readonly (number | null)[]) => {
          const floors = way.flatMap((index) => (index === null ? [] : [all[index]?.floor ?? '']))
          return floors.flatMap((one, i) =>
            floors.slice(i + 1).map((other) => (one && other ? Math.abs(Number(one) - Number(other)) : 0)),
          )
        }
        const cost = (way: readonly (number | null)[]) =>
          way.reduce<number>((sum, index, i) => {
            const place = index === null ? null : all[index]
            const slot = slots[i]
            if (!place || !slot) return sum + 1000
            const wasted = slot.seats > 0 ? Math.max(0, place.seats - slot.seats) : 0
            return sum + wasted + 30 * Math.max(0, slot.features.screens - (place.features.screens ?? 0))
          }, 0) +
          5 * storeys(way).reduce((sum, each) => sum + each, 0)
        const ways = everyWay(slots.map((slot) => slot.places.filter((index) => freeOnes.has(index))))
        const found = assignPlaces(slots, all, (index) => freeOnes.has(index))
        expect(found.cost).toBe(Math.min(...ways.map(cost)))
        const ids = found.places.flatMap((id) => id ?? [])
        expect(new Set(ids).size).toBe(ids.length)
        expect(found.lacking).toBe(slots.length - ids.length)
        for (const [i, id] of found.places.entries())
          if (id !== null) expect(slots[i]?.places.map((index) => all[index]?.id)).toContain(id)
      }),
      { numRuns: runs(300) },
    )
  })

  it('can be had exactly where some way fills every slot', () => {
    const hour = fc.integer({ min: 0, max: 11 })
    fc.assert(
      fc.property(
        fc.array(fc.array(hour, { maxLength: 6 }), { minLength: 1, maxLength: 4 }),
        fc.array(fc.integer({ min: 1, max: 3 }), { minLength: 1, maxLength: 3 }),
        (taken, counts) => {
          const all = taken.map((hours, i) =>
            room(`r${i}`, {
              seats: i + 1,
              time: {
                ...room('x').time,
                spans: hours.map((each) => ({
                  start: at('2026-12-03T06:00') + each * 60 * MINUTE,
                  end: at('2026-12-03T07:00') + each * 60 * MINUTE,
                  state: 'busy' as const,
                })),
              },
            }),
          )
          const needs = counts.map((seats) => ({ ...aRoom, siteId: VIENNA, seats }))
          const given = brief([asked('ilse')], {
            from: at('2026-12-03T06:00'),
            to: at('2026-12-03T18:00'),
            step: 60,
            places: rooms(all, needs),
          })
          const grid = gridOf(given)
          const rows = placeRowsOf(given, grid)
          if (!rows) throw new Error('The brief asks for places')
          for (let i = 0; i < grid.count; i++) {
            const start = startOf(grid, i)
            const open = rows.slots.map((slot) =>
              slot.places.filter((index) => !all[index]?.time.spans.some((span) => span.start === start)),
            )
            const some = everyWay(open).some((way) => way.every((index) => index !== null))
            expect(bitAt(rows.possible, i)).toBe(some)
            const chosen = placesAt(given, { start, end: start + 60 * MINUTE })
            expect(chosen?.lacking === 0).toBe(some)
          }
        },
      ),
      { numRuns: runs(150) },
    )
  })

  it('are nothing to look for when none is asked for', () => {
    const given = brief([asked('ilse')])
    expect(placesAt(given, { start: given.from, end: given.to })).toBeNull()
    expect(placeRowsOf(given, gridOf(given))).toBeNull()
  })
})
