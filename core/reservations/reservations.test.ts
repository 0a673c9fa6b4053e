import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkTime, isTimeProblem } from '../entries/index.ts'
import { runs } from '../testing/properties.ts'
import { instantFromText, MINUTE } from '../time/index.ts'
import {
  blockedSpan,
  featureInWords,
  holderDuring,
  isFree,
  type Place,
  placesInWords,
  placesThatFit,
  whereInWords,
} from './index.ts'

const at = (text: string) => instantFromText('Europe/Vienna', text)
const span = (from: string, to: string) => ({ start: at(`2026-12-03T${from}`), end: at(`2026-12-03T${to}`) })
const place = (
  name: string,
  seats: number,
  more: Partial<Place> = {},
  taken: [string, string][] = [],
): Place => ({
  id: name,
  name,
  siteId: 'innsbruck',
  seats,
  turnaround: 0,
  mayTake: true,
  time: {
    zone: 'Europe/Vienna',
    known: true,
    hours: [{ weekday: 4, from: 360, to: 1320 }],
    outside: 'closed',
    spans: taken.map(([from, to]) => ({ ...span(from, to), state: 'busy' })),
  },
  ...more,
})

describe('a feature', () => {
  it.each([
    ['camera', 1, 'camera'],
    ['camera', 2, '2 cameras'],
    ['screens', 2, '2 screens'],
    ['screens', 1, 'screen'],
    ['step-free access', 1, 'step-free access'],
    ['switch', 3, '3 switches'],
  ])('%s, %d of it, is "%s"', (name, count, words) => expect(featureInWords(name, count)).toBe(words))
})

describe('a place', () => {
  it('is free beside what is taken, and closed out of hours', () => {
    const serac = place('Serac', 8, {}, [['13:00', '14:00']])
    expect(isFree(serac, span('14:00', '15:00'))).toBe(true)
    expect(isFree(serac, span('13:30', '14:30'))).toBe(false)
    expect(isFree(serac, span('05:30', '06:30'))).toBe(false)
  })

  it('needs its turnaround free too, which may run past closing', () => {
    const lab = place('Cold lab', 3, { turnaround: 30 }, [['15:00', '16:00']])
    expect(blockedSpan(span('14:00', '14:45'), 30)).toEqual(span('14:00', '15:15'))
    expect(isFree(lab, span('14:00', '14:45'))).toBe(false)
    expect(isFree(lab, span('14:00', '14:30'))).toBe(true)
    expect(isFree(lab, span('21:00', '22:00'))).toBe(true)
  })

  it('fits by seats, the tightest first, here before elsewhere', () => {
    const places = [
      place('Hall', 60),
      place('Nunatak', 4, { siteId: 'nairobi' }),
      place('Col', 12),
      place('Serac', 8, {}, [['14:00', '15:00']]),
      place('Lab', 6, { mayTake: false }),
      place('Bergschrund', 4),
    ]
    const fit = (seats: number) =>
      placesThatFit(places, span('14:00', '15:00'), () => seats, 'innsbruck').map((each) => each.name)
    expect(fit(3)).toEqual(['Bergschrund', 'Col', 'Hall', 'Nunatak'])
    expect(fit(9)).toEqual(['Col', 'Hall'])
    expect(placesInWords(places.slice(2, 4))).toBe('Col (12 seats), Serac (8)')
  })

  it('offers another piece of equipment, which seats nobody', () => {
    const drones = [place('Drone 1', 0, {}, [['14:00', '15:00']]), place('Drone 2', 0)]
    const fit = placesThatFit(drones, span('14:00', '15:00'), () => 4, 'innsbruck')
    expect(placesInWords(fit)).toBe('Drone 2')
  })
})

describe('the time of an entry', () => {
  it('is read by the rules of its zone', () => {
    const checked = checkTime('2026-12-03T14:00', 60, 'Asia/Kathmandu')
    expect(checked).toEqual({
      start: Date.UTC(2026, 11, 3, 8, 15),
      end: Date.UTC(2026, 11, 3, 9, 15),
      fit: 'exact',
    })
  })

  it('moves on when daylight saving skips it, and says so', () => {
    expect(checkTime('2027-03-28T02:30', 30, 'Europe/Vienna')).toMatchObject({
      start: Date.UTC(2027, 2, 28, 1, 30),
      fit: 'gap',
    })
  })

  it.each([
    ['unknown-zone', '2026-12-03T14:00', 60, 'Europe/Atlantis'],
    ['bad-time', '2026-02-30T14:00', 60, 'Europe/Vienna'],
    ['no-length', '2026-12-03T14:00', 0, 'Europe/Vienna'],
    ['ends-before-start', '2026-12-03T14:00', -15, 'Europe/Vienna'],
    ['too-long', '2026-12-03T14:00', 31 * 1440 + 1, 'Europe/Vienna'],
  ])('is refused as %s', (code, starts, minutes, zone) => {
    const checked = checkTime(starts, minutes, zone)
    expect(isTimeProblem(checked) && checked.code).toBe(code)
  })
})

describe('who has a place during a span', () => {
  it('is whom looking at every reservation finds, turnaround before and after counted', () => {
    const lengths = fc.array(fc.record({ gap: fc.nat(5), minutes: fc.integer({ min: 1, max: 9 }) }), {
      maxLength: 12,
    })
    fc.assert(
      fc.property(
        lengths,
        fc.nat(5),
        fc.nat(120),
        fc.integer({ min: 1, max: 30 }),
        (each, turnaround, start, length) => {
          let end = -turnaround
          const taken = each.map(({ gap, minutes }) => {
            const from = end + turnaround + gap
            end = from + minutes
            return { start: from * MINUTE, end: end * MINUTE }
          })
          const chosen = { start: start * MINUTE, end: (start + length) * MINUTE }
          const blocked = blockedSpan(chosen, turnaround)
          const found = taken.find(
            (one) => one.start < blocked.end && blockedSpan(one, turnaround).end > blocked.start,
          )
          expect(holderDuring(taken, chosen, turnaround)).toBe(found ?? null)
        },
      ),
      { numRuns: runs(500) },
    )
  })
})

describe('where something is', () => {
  const serac = { name: 'Serac', site: 'Innsbruck' }
  const col = { name: 'Col', site: 'Disko Bay' }
  it.each([
    [[], 'By the ropeway', 'By the ropeway'],
    [[], '', ''],
    [[serac, col], '', 'Serac, Innsbruck; Col, Disko Bay'],
    [[serac], 'by the stairs; ask Resi', 'Serac, Innsbruck; by the stairs; ask Resi'],
    // What was typed and is reserved as well is said once.
    [[serac], 'Serac', 'Serac, Innsbruck'],
    [[serac, col], 'Col, Disko Bay; bring boots', 'Serac, Innsbruck; Col, Disko Bay; bring boots'],
  ])('with %j reserved and "%s" said is "%s"', (places, said, words) => {
    expect(whereInWords(places, said)).toBe(words)
  })
})
