import { describe, expect, it } from 'vitest'
import type { BusySpan, LaneTime } from '../availability/index.ts'
import { instantFromText, zoneTable } from '../time/index.ts'
import { hoursAround, mineInWords, ownDay } from './own-day.ts'

const vienna = zoneTable('Europe/Vienna')
const at = (text: string) => instantFromText('Europe/Vienna', text)
const span = (from: string, to: string, state: BusySpan['state'] = 'busy', title = 'Rope inspection') => ({
  start: at(`2026-12-03T${from}`),
  end: at(`2026-12-03T${to}`),
  state,
  title,
})
const lane = (...spans: BusySpan[]): LaneTime => ({
  zone: 'Europe/Vienna',
  known: true,
  hours: [
    { weekday: 4, from: 9 * 60, to: 12 * 60 },
    { weekday: 4, from: 13 * 60, to: 17 * 60 },
  ],
  outside: 'outside',
  spans,
})
const chosen = span('14:00', '15:00')

describe('my own day around a time', () => {
  it('is said in a sentence, with a sign where something stands in the way', () => {
    const says = (...spans: BusySpan[]) => mineInWords(lane(...spans), vienna, chosen)
    expect(says()).toBe('You are free then, with nothing before it that day.')
    expect(says(span('09:00', '10:00'))).toBe('You are free then; Rope inspection ends at 10:00.')
    expect(says(span('14:30', '16:00'))).toBe('⚠ You have Rope inspection then.')
    expect(says(span('14:30', '16:00', 'tentative'))).toContain('(perhaps busy)')
    const late = { start: at('2026-12-03T17:00'), end: at('2026-12-03T17:45') }
    expect(mineInWords(lane(), vienna, late)).toContain('45 min outside your hours')
    const noon = { start: at('2026-12-03T12:30'), end: at('2026-12-03T13:00') }
    expect(mineInWords(lane(), vienna, noon)).toContain('30 min of your lunch')
    expect(mineInWords({ ...lane(), known: false }, vienna, chosen)).toContain('Nothing is known')
  })

  it('is listed in order, the meeting among it, a whole day as that, and no more lines than one reads', () => {
    const away = { ...span('00:00', '23:00', 'away', 'Course'), end: at('2026-12-05T00:00') }
    const days = ownDay(
      lane(span('16:00', '17:00'), away, span('08:00', '09:00', 'listed')),
      vienna,
      chosen,
      'Snow pit',
    )
    expect(days.lines).toEqual([
      'all day, away · Course',
      '14:00 to 15:00 this meeting',
      '16:00 to 17:00 Rope inspection',
    ])
    expect(days.alt).toBe(`Your Thursday 3 December: ${days.lines.join('; ')}`)
    const many = Array.from({ length: 20 }, (_, i) => span('09:00', `09:${10 + i}`))
    expect(ownDay(lane(...many), vienna, chosen, 'Snow pit').lines.at(-1)).toBe('and 9 more')
  })

  it('shows the hours around it, in the night, too', () => {
    const night = { start: at('2026-12-03T23:30'), end: at('2026-12-04T00:30') }
    expect(hoursAround(vienna, chosen)).toMatchObject({ from: 7 * 60, to: 20 * 60 })
    expect(hoursAround(vienna, night)).toMatchObject({ from: 7 * 60, to: 29 * 60 + 30 })
  })
})

describe('its drawing', () => {
  const drawn = (time: LaneTime) => ownDay(time, vienna, chosen, 'Snow pit').drawing
  const boxes = (time: LaneTime) => drawn(time).marks.flatMap((mark) => (mark.kind === 'box' ? [mark] : []))
  const words = (time: LaneTime) =>
    drawn(time).marks.flatMap((mark) => (mark.kind === 'words' ? [mark.text] : []))

  it('tells states by height: open and busy full, perhaps the lower half, listed a thin bar', () => {
    const heights = (state: BusySpan['state']) =>
      boxes(lane(span('10:00', '11:00', state)))
        .filter((box) => box.fill === 'busy')
        .map((box) => box.height)
    const open = boxes(lane())
      .filter((box) => box.fill === 'open')
      .map((box) => box.height)
    expect([open, heights('busy'), heights('tentative'), heights('listed')]).toEqual([
      [46, 46],
      [46],
      [23],
      [5],
    ])
  })

  it('never draws the unknown as open', () => {
    const unknown = { ...lane(), known: false }
    expect(boxes(unknown).some((box) => box.fill === 'open')).toBe(false)
    expect(drawn(unknown).marks.some((mark) => mark.kind === 'line' && mark.dotted)).toBe(true)
  })

  it('frames the time, and names it unless words of something else stand there', () => {
    expect(boxes(lane()).filter((box) => box.edge === 'chosen')).toHaveLength(1)
    expect(words(lane())).toContain('14:00–15:00')
    const long = { start: chosen.start, end: at('2026-12-03T17:00') }
    const named = ownDay(lane(), vienna, long, 'Snow pit').drawing.marks
    expect(named.flatMap((mark) => (mark.kind === 'words' ? [mark.text] : []))).toContain('Snow pit')
    expect(words(lane(span('14:00', '16:00')))).not.toContain('Snow pit')
  })

  it('stays within its edges, whatever lies beyond them', () => {
    const { width, height, marks } = drawn(
      lane({ ...span('00:00', '23:00', 'away'), end: at('2026-12-09T00:00') }),
    )
    for (const mark of marks) {
      if (mark.kind === 'words') continue
      expect(mark.x).toBeGreaterThanOrEqual(0)
      expect(mark.x + mark.width).toBeLessThanOrEqual(width)
      expect(mark.y + mark.height).toBeLessThanOrEqual(height)
    }
  })
})
