import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs } from '../testing/properties.ts'
import { featuresText, type KnownPlace, planPlaces, readFeatures, readPlaceList } from './index.ts'

const HEAD = ['Name', 'SITE', 'kind', 'Seats', 'Features', 'Steward', 'Colour']
const world = {
  sites: ['Innsbruck', 'Nairobi'],
  stewards: new Set(['ilse@corrie.example', 'matteo@corrie.example']),
  me: 'ilse@corrie.example',
}
const serac: KnownPlace = {
  id: 'serac',
  name: 'Serac',
  kind: 'room',
  site: 'Innsbruck',
  floor: '2',
  seats: 8,
  features: { screens: 2, camera: 1 },
  about: 'Two screens.',
  steward: 'ilse@corrie.example',
  mine: true,
  retired: false,
}
const plan = (records: string[][], known: KnownPlace[] = [serac]) =>
  planPlaces(readPlaceList(records).lines, known, world)

describe('a list of places', () => {
  it('says which columns are missing, and reads nothing then', () => {
    expect(
      readPlaceList([
        ['Name', 'Place'],
        ['Serac', 'Innsbruck'],
      ]),
    ).toEqual({
      lines: [],
      missing: ['kind', 'site'],
    })
    expect(readPlaceList([]).missing).toEqual(['name', 'kind', 'site'])
  })

  it('makes what is new, changes what differs, and leaves alone what is the same or not said', () => {
    const done = plan([
      HEAD,
      ['Tor', 'innsbruck', 'Rooms', '4', 'screen', '', 'blue'],
      ['serac', 'Innsbruck', 'room', '12', 'camera; 2 screens', 'ILSE@corrie.example', ''],
      ['', '', '', '', '', '', ''],
    ])
    expect(done).toMatchObject([
      {
        line: 2,
        does: 'made',
        id: null,
        place: { name: 'Tor', site: 'Innsbruck', steward: world.me, about: '' },
      },
      {
        line: 3,
        does: 'changed',
        id: 'serac',
        words: 'seats 8, now 12',
        place: { about: 'Two screens.', floor: '2' },
      },
    ])
    expect(plan([HEAD, ['Serac', 'Innsbruck', 'room', '8', '2 screens, camera', '', '']])).toMatchObject([
      { does: 'same' },
    ])
  })

  it('says of each line all that is wrong with it', () => {
    const [one, two, three, four, five] = plan(
      [
        HEAD,
        ['Tor', 'Innsbruck', 'room', '4', '', '', ''],
        ['tor', 'Atlantis', 'cupboard', '-3', '0 screens', 'nobody@corrie.example', ''],
        ['', 'Innsbruck', 'room', '99999', '', '', ''],
        ['Cirque', 'Nairobi', 'room', '4', '', '', ''],
        ['Kar', 'Nairobi', 'room', '4', '', '', ''],
      ],
      [
        { ...serac, name: 'Cirque', mine: false },
        { ...serac, name: 'Kar', retired: true },
      ],
    )
    expect(one?.does).toBe('made')
    expect(two?.words.split('; ')).toEqual([
      '“cupboard” is no kind: room, lab, desk, equipment',
      '“-3” is no number of seats',
      'its features cannot be read: “2 screens',
      'camera”',
      'is in the list twice: line 2 has it, too',
      'there is no site “Atlantis”: Innsbruck, Nairobi',
      'nobody here has the address nobody@corrie.example',
    ])
    expect(three?.words).toBe('has no name; has more than 10000 seats')
    expect(four?.words).toBe('is looked after by somebody else')
    expect(five?.words).toBe('is not in use any more: bring it back first')
    expect([one, two, three, four, five].map((line) => line?.does)).toEqual([
      'made',
      ...Array(4).fill('refused'),
    ])
  })

  it('sends back of a name that is too long only as much as one needs to find it', () => {
    const [line] = plan([HEAD, ['a'.repeat(100_000), 'Innsbruck', 'room', '4', '', '', '']])
    expect(line).toMatchObject({ does: 'refused', words: 'its name is longer than 200 letters' })
    expect(line?.name).toHaveLength(200)
  })

  it('reads features as they are written, whatever they are', () => {
    const name = fc.stringMatching(/^[a-z][a-z -]{0,20}[a-z]$/).filter((text) => !/^x /.test(text))
    fc.assert(
      fc.property(fc.dictionary(name, fc.integer({ min: 1, max: 1000 }), { maxKeys: 8 }), (features) => {
        expect(readFeatures(featuresText(features))).toEqual({ ...features })
      }),
      { numRuns: runs(300) },
    )
  })
})
