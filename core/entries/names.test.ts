import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { runs, SEED } from '../testing/properties.ts'
import { DAY, dayOf, HOUR, wallFromText, wallText } from '../time/index.ts'
import { type NamedDate, namesOf } from './names.ts'

const wall = (text: string) => wallFromText(text) ?? 0
/** Dates named a, b, c … in the order given; one that had gone is marked by a minus. */
const had = (...texts: string[]): NamedDate[] =>
  texts.map((text, i) => ({
    id: 'abcdefgh'.charAt(i),
    recurrence: wall(text.replace(/^-/, '20')),
    gone: text.startsWith('-'),
  }))
const named = (before: NamedDate[], now: string[], by = 0) =>
  Object.fromEntries(
    [...namesOf(before, now.map(wall), by)].map(([at, id]) => [id, wallText(at).slice(5)]).sort(),
  )

describe('a date keeps its name', () => {
  const tuesdays = ['2026-12-01T14:00', '2026-12-08T14:00', '2026-12-15T14:00']

  it('when its series moves by a week, each to where the next one was', () => {
    expect(
      named(had(...tuesdays), ['2026-12-08T14:00', '2026-12-15T14:00', '2026-12-22T14:00'], 7 * DAY),
    ).toEqual({
      a: '12-08T14:00',
      b: '12-15T14:00',
      c: '12-22T14:00',
    })
  })

  it('when only the hour is another, also where nobody says by how much', () => {
    const later = tuesdays.map((text) => text.replace('14:00', '16:30'))
    expect(named(had(...tuesdays), later)).toEqual({ a: '12-01T16:30', b: '12-08T16:30', c: '12-15T16:30' })
  })

  it('when others fall away or join, and the new ones have none', () => {
    expect(named(had(...tuesdays), ['2026-12-01T14:00', '2026-12-15T14:00', '2026-12-17T14:00'])).toEqual({
      a: '12-01T14:00',
      c: '12-15T14:00',
    })
  })

  it('when it is the only one of its entry, wherever that goes', () => {
    expect(named(had('2026-12-01T14:00'), ['2027-03-04T09:00'])).toEqual({ a: '03-04T09:00' })
  })

  it('when it comes back, the one that left last', () => {
    const before = had('2026-12-01T14:00', '-26-12-08T14:00', '-26-12-08T14:00')
    expect(named(before, ['2026-12-01T14:00', '2026-12-08T14:00'])).toEqual({
      a: '12-01T14:00',
      b: '12-08T14:00',
    })
  })

  it('and no two dates have one name, nor one date two, whatever the change', () => {
    const walls = fc.uniqueArray(
      fc.integer({ min: 0, max: 200 }).map((n) => n * 6 * HOUR),
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(walls, walls, walls, fc.integer({ min: -8, max: 8 }), (standing, gone, now, n) => {
        const before = [
          ...standing.map((recurrence, i) => ({ id: `s${i}`, recurrence, gone: false })),
          ...gone.map((recurrence, i) => ({ id: `g${i}`, recurrence, gone: true })),
        ]
        const by = n * 6 * HOUR
        const names = namesOf(before, now, by)
        expect(new Set(names.values()).size).toBe(names.size)
        for (const [at, id] of names) {
          expect(now).toContain(at)
          const was = before.find((one) => one.id === id)
          expect(was).toBeDefined()
          if (was?.gone) expect(was.recurrence).toBe(at)
        }
        // What the change moved to a date that there is goes on there.
        for (const [i, recurrence] of standing.entries())
          if (now.includes(recurrence + by)) expect(names.get(recurrence + by)).toBe(`s${i}`)
        // Nobody who still has a date on the day loses their name while that day has one without.
        const nameless = now.filter((at) => !names.has(at)).map(dayOf)
        const lost = before.filter((one) => !one.gone && ![...names.values()].includes(one.id))
        for (const one of lost) expect(nameless).not.toContain(dayOf(one.recurrence + by))
      }),
      { seed: SEED, numRuns: runs(200) },
    )
  })
})
