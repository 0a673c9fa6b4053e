import { describe, expect, it } from 'vitest'
import { checkTime, isTimeProblem } from '../entries/index.ts'
import { instantFromText } from '../time/index.ts'
import { blockedSpan, isFree, type Place, placesInWords, placesThatFit } from './index.ts'

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
