import { describe, expect, it } from 'vitest'
import type { BusySpan } from '../availability/index.ts'
import { instantFromText, MINUTE } from '../time/index.ts'
import { clashesIn, freeUntil, inDrawingOrder, readablePart, wordsAt } from './blocks.ts'

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
  })

  it('that begin together are drawn the shorter on top, and read beside it', () => {
    const [long, short] = [block('09:00', '12:00'), block('09:00', '10:00')]
    expect([short, long].sort(inDrawingOrder)).toEqual([long, short])
    expect(readablePart([long, short], 0)).toEqual({
      start: at('2026-12-03T10:00'),
      end: at('2026-12-03T12:00'),
    })
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
