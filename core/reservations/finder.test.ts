import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Findable, findPlaces, fits, readWish, type Wish, withoutPart } from './index.ts'

const FEATURES = ['screens', 'camera', 'step-free', 'height-adjustable', 'band saw', 'window']
const ANY: Wish = { words: [], kind: null, siteId: null, floor: null, seats: 0, features: {} }
const room = (
  name: string,
  seats: number,
  features: Record<string, number> = {},
  more: Partial<Findable> = {},
): Findable => ({
  id: name,
  name,
  kind: 'room',
  siteId: 'innsbruck',
  site: 'Innsbruck',
  floor: '2',
  seats,
  features,
  about: '',
  ...more,
})
const SERAC = room('Serac', 8, { screens: 2, camera: 1 })
const COL = room('Col', 12, { screens: 1 })
const NEVE = room('Névé Hall', 60, { screens: 2 }, { floor: '0' })
const NUNATAK = room('Nunatak', 8, { screens: 2 }, { siteId: 'nairobi', site: 'Nairobi' })
const ALL = [NEVE, COL, NUNATAK, SERAC]
const namesOf = (places: readonly Findable[]) => places.map((place) => place.name)

describe('what is typed to find a place', () => {
  it.each([
    ['two screens', { features: { screens: 2 } }],
    ['2 screens', { features: { screens: 2 } }],
    ['a screen and a camera', { features: { screens: 1, camera: 1 } }],
    ['height adjustable', { features: { 'height-adjustable': 1 } }],
    ['height-adjustable desk', { features: { 'height-adjustable': 1 }, words: ['desk'] }],
    ['band saw', { features: { 'band saw': 1 } }],
    ['for 8, step-free', { seats: 8, features: { 'step-free': 1 } }],
    ['twelve seats', { seats: 12 }],
    ['Névé', { words: ['neve'] }],
    ['lab 20', { words: ['lab', '20'] }],
    ['', {}],
  ])('%s', (text, wish) => {
    expect(readWish(text, FEATURES)).toEqual({ words: [], seats: 0, features: {}, ...wish })
  })
})

describe('finding a place', () => {
  it('gives what fits, what is nearest and wastes least first', () => {
    const wish = { ...ANY, features: { screens: 2 } }
    expect(namesOf(findPlaces(ALL, wish, null, 'innsbruck').places)).toEqual([
      'Serac',
      'Névé Hall',
      'Nunatak',
    ])
    expect(namesOf(findPlaces(ALL, { ...wish, seats: 8 }, null, 'nairobi').places)[0]).toBe('Nunatak')
    expect(namesOf(findPlaces(ALL, { ...ANY, words: ['neve'] }, null, 'innsbruck').places)).toEqual([
      'Névé Hall',
    ])
  })

  it('says what to give up where nothing fits, and how many that opens', () => {
    const wish = { ...ANY, seats: 20, siteId: 'innsbruck', features: { camera: 1 } }
    expect(findPlaces(ALL, wish, null, 'innsbruck').instead).toEqual([
      { part: { kind: 'seats' }, opens: 1 },
      { part: { kind: 'feature', name: 'camera' }, opens: 1 },
    ])
    const taken = findPlaces(ALL, { ...ANY, seats: 9 }, (place) => place.seats < 9, 'innsbruck')
    expect(taken.instead).toEqual([
      { part: { kind: 'seats' }, opens: 2 },
      { part: { kind: 'free' }, opens: 2 },
    ])
  })

  it('counts what each part that is given up opens as trying it does', () => {
    const some = fc.subarray(ALL)
    const wishes = fc.record({
      words: fc.subarray(['serac', 'hall']),
      kind: fc.constantFrom(null, 'room', 'lab'),
      siteId: fc.constantFrom(null, 'innsbruck', 'nairobi'),
      floor: fc.constantFrom(null, '2', '0'),
      seats: fc.constantFrom(0, 8, 20, 100),
      features: fc.constantFrom<Record<string, number>>(
        {},
        { screens: 2 },
        { camera: 1 },
        { screens: 2, camera: 1 },
      ),
    })
    fc.assert(
      fc.property(some, wishes, (places, wish) => {
        const { places: found, instead } = findPlaces(places, wish, null, 'innsbruck')
        expect(new Set(found)).toEqual(new Set(places.filter((place) => fits(place, wish))))
        for (const { part, opens } of instead)
          if (part.kind !== 'free')
            expect(places.filter((place) => fits(place, withoutPart(wish, part)))).toHaveLength(opens)
      }),
    )
  })
})
