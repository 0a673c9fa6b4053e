import type { Opening } from '@marmot/core/openings'
import { zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { openingAt } from '../testing/openings.ts'
import { lightsOf } from './brief-lanes.tsx'
import type { Arranging, Member } from './use-arranging.ts'
import { takenAway } from './use-taken-away.ts'
import { type Names, partsWords, scoreLines } from './words.ts'

const names: Names = {
  person: (id) => id.charAt(0).toUpperCase() + id.slice(1),
  site: (id) => id,
  zone: zoneTable('Europe/Vienna'),
}

const opening = (parts: Partial<Opening['parts']>) => openingAt(0, parts)

describe('what an opening costs, in words', () => {
  it('is nothing where everybody is free inside their hours', () => {
    expect(partsWords(opening({}), names)).toEqual([])
    expect(scoreLines(opening({}), names)).toEqual(['today'])
  })

  it('names each by what they give, whoever gives most first', () => {
    const words = partsWords(
      opening({
        missing: ['declan'],
        stretch: [
          { id: 'tashi', minutes: 15 },
          { id: 'aroha', minutes: 90 },
        ],
        spared: ['catalina'],
        lunch: [{ id: 'ilse', minutes: 30 }],
        tentative: [{ id: 'wanjiru', minutes: 20 }],
        squeezed: [{ id: 'matteo', minutes: 5 }],
      }),
      names,
    )
    expect(words).toEqual([
      'without Declan',
      '1 h 30 outside Aroha’s hours',
      '15 min outside Tashi’s hours',
      'easier on Catalina, who had the bad hours lately',
      '30 min of Ilse’s lunch',
      'Wanjiru is perhaps busy',
      'no break around it for Matteo',
    ])
  })

  it('has its numbers in the tooltip: minutes in all, fairness, scraps, seats, days', () => {
    const lines = scoreLines(
      opening({
        stretch: [
          { id: 'tashi', minutes: 15 },
          { id: 'aroha', minutes: 90 },
        ],
        fairness: 75,
        scraps: 20,
        days: 1,
        places: {
          places: ['serac'],
          lacking: 0,
          seatsWasted: 3,
          featuresMissing: 0,
          floorsApart: 0,
          cost: 0,
        },
      }),
      names,
    )
    expect(lines.slice(2)).toEqual([
      '1 h 45 outside hours in all',
      'whoever bears most would stand 1 h 15 above the average',
      '20 min left in pieces too short to use',
      '3 seats left empty',
      'in 1 day of the window',
    ])
  })
})

describe('the light on the lanes', () => {
  const member = (id: string, known: boolean) => ({ id, time: { known } }) as Member
  const arranging = (members: readonly Member[], unknown: readonly string[]) =>
    ({
      asked: members,
      found: {
        unknown,
        bands: [
          { start: 0, end: 60, missing: 0, stretch: 0 },
          { start: 90, end: 120, missing: 2, stretch: 15 },
        ],
      },
    }) as unknown as Arranging

  it('is full where all can come, paler with the count where fewer can', () => {
    const all = ['a', 'b', 'c', 'd', 'e'].map((id) => member(id, true))
    const [full, pale] = lightsOf(arranging(all, []))
    expect([full?.words, pale?.words]).toEqual(['all 5', '3 of 5'])
    expect(pale?.strength).toBeLessThan(full?.strength ?? 0)
  })

  it('never counts somebody whose time is unknown as free', () => {
    const some = [member('a', true), member('b', true), member('c', true), member('guest', false)]
    expect(lightsOf(arranging(some, ['guest'])).map((each) => each.words)).toEqual(['all 3 known', '1 of 3'])
  })
})

describe('a change by somebody else', () => {
  const stand = (start: number, free: readonly string[], blocked: readonly string[]) => ({
    start,
    end: start + 30,
    free,
    blocked,
  })

  it('takes away whoever and whatever was free at the same time before', () => {
    const before = stand(600, ['ilse', 'matteo', 'serac'], ['declan'])
    expect(takenAway(before, stand(600, ['ilse'], ['matteo', 'serac', 'declan']))).toEqual([
      'matteo',
      'serac',
    ])
    expect(takenAway(before, stand(600, ['ilse', 'matteo', 'serac', 'declan'], []))).toEqual([])
  })

  it('is none where one moved the time oneself, asked for somebody new, or looked for the first time', () => {
    const before = stand(600, ['ilse', 'matteo'], [])
    expect(takenAway(before, stand(615, ['ilse'], ['matteo']))).toEqual([])
    expect(takenAway(before, stand(600, ['ilse', 'matteo'], ['tashi']))).toEqual([])
    expect(takenAway(null, stand(600, ['ilse'], ['matteo']))).toEqual([])
  })
})
