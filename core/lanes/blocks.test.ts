import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { BusySpan } from '../availability/index.ts'
import { instantFromText, MINUTE } from '../time/index.ts'
import {
  ALONE,
  clashesIn,
  freeUntil,
  inDrawingOrder,
  isHalved,
  readablePart,
  sharesOf,
  wordsAt,
} from './blocks.ts'

const at = (text: string) => instantFromText('Europe/Vienna', text)

describe('blocks on a lane', () => {
  const block = (from: string, to: string, state: BusySpan['state'] = 'busy', title = 'x'): BusySpan => ({
    start: at(`2026-12-03T${from}`),
    end: at(`2026-12-03T${to}`),
    state,
    title,
  })

  it('clash where two that fill the lane overlap, and only there', () => {
    const blocks = [
      block('09:00', '10:00'),
      block('09:30', '11:00'),
      block('11:00', '12:00'),
      block('09:00', '12:00', 'tentative'),
    ]
    expect(clashesIn(blocks).map(({ start, end }) => ({ start, end }))).toEqual([
      { start: at('2026-12-03T09:30'), end: at('2026-12-03T10:00') },
    ])
    // A holiday in the middle of a journey is no clash; a meeting on it is.
    const away = [block('00:00', '23:00', 'away'), block('08:00', '12:00', 'away')]
    expect(clashesIn(away)).toEqual([])
    expect(clashesIn([...away, block('09:00', '10:00')])).toHaveLength(2)
  })

  it('that begin together are drawn the shorter on top, and read beside it', () => {
    const [long, short] = [block('09:00', '12:00'), block('09:00', '10:00')]
    expect([short, long].sort(inDrawingOrder)).toEqual([long, short])
    expect(readablePart([long, short], 0)).toEqual({
      start: at('2026-12-03T10:00'),
      end: at('2026-12-03T12:00'),
    })
  })

  const shares = (...blocks: BusySpan[]) => {
    const drawn = [...blocks].sort(inDrawingOrder)
    const parts = sharesOf(drawn, 12 * MINUTE)
    return blocks.map((each) => {
      const { at, of } = parts[drawn.indexOf(each)] ?? ALONE
      return `${at + 1}/${of}`
    })
  }

  it('at the same time have each a part of the height, as those have that differ by a few minutes only', () => {
    expect(shares(block('09:00', '10:00'), block('09:00', '10:00'))).toEqual(['1/2', '2/2'])
    expect(shares(block('09:00', '10:00'), block('09:05', '10:05'))).toEqual(['1/2', '2/2'])
    expect(shares(...Array.from({ length: 3 }, () => block('09:00', '10:00')))).toEqual(['1/3', '2/3', '3/3'])
    // Of two held times it is the lower half that they share; of what is only listed the edge.
    expect(shares(block('09:00', '10:00', 'held'), block('09:00', '10:00', 'tentative'))).toEqual([
      '1/2',
      '2/2',
    ])
    expect(shares(block('09:00', '10:00', 'listed'), block('09:00', '10:00', 'listed'))).toEqual([
      '1/2',
      '2/2',
    ])
  })

  it('leave a part to one that lies under several, and only where it can be seen nowhere', () => {
    const whole = block('09:00', '11:00')
    expect(shares(whole, block('09:00', '10:00'), block('10:00', '11:00'))).toEqual(['1/2', '2/2', '2/2'])
    expect(shares(whole, block('09:00', '10:00'))).toEqual(['1/1', '1/1'])
    expect(shares(whole, block('10:30', '12:00'))).toEqual(['1/1', '1/1'])
    expect(shares(block('09:00', '09:30'), block('09:15', '09:45'))).toEqual(['1/1', '1/1'])
  })

  it('hide nothing: what takes half the lane lies over what takes all of it, not under it', () => {
    const [held, busy] = [block('09:00', '10:00', 'held'), block('09:00', '10:00')]
    expect([held, busy].sort(inDrawingOrder)).toEqual([busy, held])
    expect(shares(held, busy)).toEqual(['1/1', '1/1'])
    const halved = (...drawn: BusySpan[]) =>
      drawn.map((_, i) => isHalved(drawn, sharesOf(drawn, 12 * MINUTE), i))
    expect(halved(busy, held)).toEqual([true, false])
    // Two that fill the lane then share its upper half.
    expect(halved(busy, block('09:00', '10:00'), block('09:45', '10:30', 'held'))).toEqual([
      true,
      true,
      false,
    ])
    expect(halved(busy, block('10:00', '11:00'), block('10:00', '11:00'), held)).toEqual([
      true,
      false,
      false,
      false,
    ])
    expect(readablePart([busy, held], 0)).toEqual({ start: busy.start, end: busy.end })
    // On a low lane half of it is words cut in two.
    expect(readablePart([busy, block('09:30', '10:00', 'held')], 0, [], true).end).toBe(
      at('2026-12-03T09:30'),
    )
  })

  it('can be pressed, whichever others stand there: a part of each lies under none', () => {
    const time = fc.record({ from: fc.integer({ min: 0, max: 12 }), long: fc.integer({ min: 1, max: 8 }) })
    fc.assert(
      fc.property(fc.array(time, { minLength: 1, maxLength: 4 }), (times) => {
        const least = 12 * MINUTE
        const drawn = times
          .map(({ from, long }) => ({
            start: from * 15 * MINUTE,
            end: (from + long) * 15 * MINUTE,
            state: 'busy' as const,
          }))
          .sort(inDrawingOrder)
        const parts = sharesOf(drawn, least)
        drawn.forEach((span, i) => {
          const mine = parts[i] ?? ALONE
          const over = (start: number) =>
            drawn.some((other, j) => {
              const part = parts[j] ?? ALONE
              return (
                j > i &&
                other.start < start + 15 * MINUTE &&
                other.end > start &&
                part.at / part.of <= mine.at / mine.of
              )
            })
          const quarters = Array.from(
            { length: (span.end - span.start) / (15 * MINUTE) },
            (_, q) => span.start + q * 15 * MINUTE,
          )
          // Two that stick out at either end hide a third without standing in its time: neither is made lower for it.
          const stuck = drawn.filter((other, j) => j > i && other.start < span.end && other.end > span.start)
          const nested = stuck.filter((other) => other.start >= span.start && other.end <= span.end)
          if (stuck.length === nested.length) expect(quarters.some((start) => !over(start))).toBe(true)
        })
      }),
      { numRuns: 2000 },
    )
  })

  it('can be read up to where the next lies over them; the lower half does not cover', () => {
    const first = block('09:00', '11:00')
    expect(readablePart([first, block('10:00', '12:00')], 0).end).toBe(at('2026-12-03T10:00'))
    expect(readablePart([first, block('10:00', '12:00', 'tentative')], 0).end).toBe(first.end)
  })

  it('of what is only listed are beneath it, and never across another block or other words', () => {
    const early = block('08:00', '10:00')
    const listed = block('09:00', '12:00', 'listed')
    const second = block('09:30', '11:00', 'listed')
    expect(readablePart([early, listed], 1)).toEqual({ start: early.end, end: listed.end })
    // One after the other, in whichever order they are drawn.
    const next = block('10:00', '10:30')
    expect(readablePart([next, early, listed], 2)).toEqual({ start: next.end, end: listed.end })
    const hidden = readablePart([listed, second], 1)
    expect(hidden.end - hidden.start).toBeLessThanOrEqual(0)
  })

  it('leave the time behind them free up to the next, and none where another goes on', () => {
    const last = at('2026-12-03T18:00')
    const narrow = block('09:00', '09:15')
    expect(freeUntil([narrow], 0, last)).toBe(last)
    expect(freeUntil([narrow, block('10:00', '11:00', 'tentative')], 0, last)).toBe(at('2026-12-03T10:00'))
    expect(freeUntil([block('08:00', '12:00'), narrow], 1, last)).toBe(narrow.end)
    // A whole day that is only listed leaves room; what is listed later has words of its own.
    const wholeDay = block('00:00', '23:00', 'listed')
    expect(freeUntil([wholeDay, narrow], 1, last)).toBe(last)
    expect(freeUntil([narrow, block('11:00', '12:00', 'listed')], 0, last)).toBe(at('2026-12-03T11:00'))
    // One that begins meanwhile has its words where this block ends.
    const [during, clock] = [narrow.start + 15 * MINUTE, (ms: number) => new Date(ms).toISOString()]
    const listed = { ...block('11:00', '12:00', 'listed'), start: during }
    expect(clock(freeUntil([narrow, listed], 0, last))).toBe(clock(narrow.end))
  })

  it('have their words inside, else on the free time behind, else on several lines, else nowhere', () => {
    const words = { words: 'Core freezer defrost', note: '', listed: false, roomy: true }
    expect(wordsAt({ ...words, inside: 200, beside: 0 })).toBe('inside')
    expect(wordsAt({ ...words, inside: 40, beside: 200 })).toBe('beside')
    expect(wordsAt({ ...words, inside: 40, beside: 10 })).toBe('inside')
    expect(wordsAt({ ...words, roomy: false, inside: 40, beside: 10 })).toBe(null)
    expect(wordsAt({ ...words, inside: 10, beside: 10 })).toBe(null)
    expect(wordsAt({ ...words, listed: true, inside: 20, beside: 500 })).toBe(null)
  })
})
