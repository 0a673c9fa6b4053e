import { describe, expect, it } from 'vitest'
import { DAY, HOUR } from '../time/index.ts'
import { proposalRefusal } from './index.ts'

const NOW = Date.UTC(2026, 10, 23, 8)
const date = { start: NOW + DAY, end: NOW + DAY + HOUR, cancelled: false }
const proposed = { start: NOW + 2 * DAY, end: NOW + 2 * DAY + HOUR, stamp: NOW }

describe('another time that is proposed', () => {
  it('may be had while the date stands and the time is still to come', () => {
    expect(proposalRefusal(proposed, date, null, NOW)).toBeNull()
    expect(proposalRefusal(proposed, date, NOW - HOUR, NOW)).toBeNull()
    expect(
      proposalRefusal({ ...proposed, start: date.start, end: date.end + HOUR }, date, null, NOW),
    ).toBeNull()
  })

  it.each([
    ['cancelled', proposed, { ...date, cancelled: true }, null],
    ['over', proposed, { ...date, start: NOW - HOUR, end: NOW }, null],
    ['in-the-past', { ...proposed, start: NOW }, date, null],
    ['no-length', { ...proposed, end: proposed.start }, date, null],
    ['no-length', { ...proposed, end: proposed.start + 32 * DAY }, date, null],
    ['same-time', { ...proposed, start: date.start, end: date.end }, date, null],
    ['older-proposal', proposed, date, NOW + 1],
  ])('is refused: %s', (why, one, of, made) => {
    expect(proposalRefusal(one, of, made, NOW)).toBe(why)
  })
})
