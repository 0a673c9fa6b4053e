import type { BusySpan } from '@marmot/core/availability'
import { dayFromCivil, HOUR, instantFromText, instantOf, MINUTE, wallOf, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { daysAxis, instantAxis, snap, ticksOf, wallAxis } from './axis.ts'
import { type Drag, draggedTo, type Grid, type Ground, heldAt, modeOf, timeHeld } from './drag.ts'
import { RIBBON_DAYS, ribbonStart } from './lens.ts'
import { takenFill } from './taken.ts'

const vienna = zoneTable('Europe/Vienna')
const kathmandu = zoneTable('Asia/Kathmandu')
const at = (text: string) => instantFromText('Europe/Vienna', text)
const day = (year: number, month: number, date: number) => dayFromCivil(year, month, date) ?? 0

describe('an axis', () => {
  it('goes from instants to places and back', () => {
    const axis = instantAxis(at('2026-12-03T00:00'), at('2026-12-04T00:00'))
    expect(axis.at(at('2026-12-03T06:00'))).toBe(0.25)
    expect(axis.instant(0.75)).toBe(at('2026-12-03T18:00'))
  })

  it('of the clock keeps hours in line on the day that daylight saving begins', () => {
    const usual = wallAxis(vienna, day(2027, 3, 27), 0, 1440)
    const short = wallAxis(vienna, day(2027, 3, 28), 0, 1440)
    expect(usual.at(at('2027-03-27T12:00'))).toBe(0.5)
    expect(short.at(at('2027-03-28T12:00'))).toBe(0.5)
    expect(short.to - short.from).toBe(23 * HOUR)
    expect(short.instant(0.5)).toBe(at('2027-03-28T12:00'))
  })

  it('snaps to the grid of the clock, in zones of :45 too', () => {
    const time = at('2026-12-03T14:08')
    expect(snap(time, 15, vienna)).toBe(at('2026-12-03T14:15'))
    // 14:08 in Vienna is 18:53 in Kathmandu: the nearest half hour there is 19:00.
    expect(snap(time, 30, kathmandu)).toBe(at('2026-12-03T14:15'))
  })
})

describe('a lane of several days', () => {
  const first = day(2027, 3, 22)
  const axis = daysAxis(vienna, first, 7, 7 * 60, 20 * 60)
  const put = (date: number, hour: number) =>
    axis.at(instantOf(vienna, wallOf(day(2027, 3, date), hour * 60)))

  it('gives each day the same width and its shown hours, also when the clocks change', () => {
    expect([put(22, 7), put(23, 7), put(28, 7), put(22, 20)]).toEqual([0, 1 / 7, 6 / 7, 1 / 7])
    expect(put(28, 13.5) - put(28, 7)).toBeCloseTo(1 / 14, 6)
  })

  it('puts what lies outside the shown hours on the edge, and never before an earlier day', () => {
    expect(put(24, 3)).toBe(put(24, 7))
    expect(put(24, 23)).toBe(put(25, 7))
  })

  it('goes back to the instant that was pointed at', () => {
    for (const [date, hour] of [
      [22, 8],
      [28, 9],
      [28, 19],
    ] as const) {
      const instant = instantOf(vienna, wallOf(day(2027, 3, date), hour * 60))
      expect(Math.abs(axis.instant(axis.at(instant)) - instant)).toBeLessThan(1000)
    }
  })
})

describe('a ruler', () => {
  const axis = instantAxis(at('2026-12-03T00:00'), at('2026-12-04T00:00'))

  it('says each zone’s own hours at the same places', () => {
    const [home, there] = [ticksOf(axis, vienna, vienna, 1000), ticksOf(axis, vienna, kathmandu, 1000)]
    expect(home.map((tick) => tick.fraction)).toEqual(there.map((tick) => tick.fraction))
    expect(home.slice(0, 3).map((tick) => tick.clock)).toEqual(['00:00', '02:00', '04:00'])
    expect(there.slice(0, 3).map((tick) => tick.clock)).toEqual(['04:45', '06:45', '08:45'])
  })

  it('names the day where it begins', () => {
    const days = ticksOf(axis, vienna, kathmandu, 1000).flatMap((tick) =>
      tick.day ? [[tick.clock, tick.day]] : [],
    )
    expect(days).toEqual([
      ['04:45', 'Thu 3 Dec'],
      ['00:45', 'Fri 4 Dec'],
    ])
  })

  it('leaves room for its labels, however narrow', () => {
    for (const width of [300, 600, 1000, 2000]) {
      const ticks = ticksOf(axis, vienna, vienna, width)
      expect(width / ticks.length).toBeGreaterThanOrEqual(58)
    }
  })

  it('follows a change of clocks inside its range', () => {
    const night = instantAxis(at('2027-03-28T00:00'), at('2027-03-28T06:00'))
    expect(ticksOf(night, vienna, vienna, 400).map((tick) => tick.clock)).toEqual([
      '00:00',
      '01:00',
      '03:00',
      '04:00',
      '05:00',
    ])
  })
})

describe('a drag', () => {
  const row = {
    id: 'r',
    name: 'r',
    label: null,
    time: { zone: 'Europe/Vienna', known: true, hours: [], spans: [], outside: 'outside' as const },
    axis: instantAxis(at('2026-12-03T00:00'), at('2026-12-04T00:00')),
  }
  const grid: Grid = { step: 15, home: vienna, length: 60 * MINUTE, draws: false }
  const origin = { start: at('2026-12-03T10:00'), end: at('2026-12-03T11:00'), rowId: null }
  const drag = (mode: Drag['mode'], more: Partial<Drag> = {}): Drag => ({
    mode,
    row,
    span: null,
    grip: 20 * MINUTE,
    origin,
    from: { x: 0, y: 0, at: at('2026-12-03T10:20') },
    gesture: 1,
    moved: true,
    ...more,
  })
  const clock = (span: { start: number; end: number }) =>
    [span.start, span.end].map((each) => new Date(each + HOUR).toISOString().slice(11, 16))

  it('moves a time by the grip, on the grid', () => {
    expect(clock(draggedTo(drag('move'), at('2026-12-03T13:27'), grid))).toEqual(['13:00', '14:00'])
  })

  it('stretches an end, never past the other', () => {
    expect(clock(draggedTo(drag('end'), at('2026-12-03T12:10'), grid))).toEqual(['10:00', '12:15'])
    expect(clock(draggedTo(drag('end'), at('2026-12-03T08:00'), grid))).toEqual(['10:00', '10:15'])
    expect(clock(draggedTo(drag('start'), at('2026-12-03T12:00'), grid))).toEqual(['10:45', '11:00'])
  })

  it('draws a new time both ways on a day, and centres one of the right length across all lanes', () => {
    const fresh = drag('new', { origin: null })
    const rows: Grid = { ...grid, draws: true }
    expect(clock(draggedTo(fresh, at('2026-12-03T11:40'), rows))).toEqual(['10:15', '11:45'])
    expect(clock(draggedTo(fresh, at('2026-12-03T09:00'), rows))).toEqual(['09:00', '10:15'])
    expect(clock(draggedTo(fresh, at('2026-12-03T15:00'), grid))).toEqual(['14:30', '15:30'])
  })

  it('keeps the time it holds where the lanes slide away under the hand, and goes on from there', () => {
    // A sheet beside the lanes closes: they reach from 800 pixels to 1,200.
    const narrow: Ground = { start: 100, length: 800, axis: row.axis }
    const wide: Ground = { start: 100, length: 1200, axis: row.axis }
    const pressed = { pixels: 500, rowId: 'r', ground: narrow, slip: 0 }
    expect(timeHeld(pressed)).toBe(at('2026-12-03T12:00'))
    const slid = heldAt(pressed, wide, { pixels: 500, rowId: 'r', ground: wide })
    expect(timeHeld(slid)).toBe(at('2026-12-03T12:00'))
    // A hundred pixels are two hours now.
    const further = heldAt(slid, wide, { pixels: 600, rowId: 'r', ground: wide })
    expect(timeHeld(further)).toBe(at('2026-12-03T14:00'))
    // Nothing slides: a day further down it is where the pointer is.
    const tomorrow = { ...narrow, axis: instantAxis(at('2026-12-04T00:00'), at('2026-12-05T00:00')) }
    expect(timeHeld(heldAt(pressed, narrow, { pixels: 300, rowId: 's', ground: tomorrow }))).toBe(
      at('2026-12-04T06:00'),
    )
  })

  it('takes hold of what was pressed', () => {
    const span: BusySpan = { ...origin, state: 'busy', entryId: 'e' }
    expect(modeOf('end', 'all', null, false)).toBe('end')
    expect(modeOf('middle', 'all', null, false)).toBe('move')
    expect(modeOf('track', 'row', null, false)).toBe('new')
    expect(modeOf('block', 'row', span, true)).toBe('move')
    expect(modeOf('block', 'row', span, false)).toBe('press')
    // Somebody else's bare busy time is no entry to open: the time is chosen there.
    expect(modeOf('block', 'all', { ...span, entryId: undefined }, false)).toBe('new')
  })
})

describe('the ribbon', () => {
  const today = day(2026, 11, 25)

  it('is full on days on which one is away, and as full as its hours are on others', () => {
    const zone = 'Europe/Vienna'
    const at = (days: number, minutes = 0) => instantOf(zoneTable(zone), wallOf(today + days, minutes))
    const spans: BusySpan[] = [
      { start: at(1), end: at(3), state: 'away', dayOff: true, title: 'Epiphany' },
      { start: at(3, 600), end: at(3, 840), state: 'busy' },
      { start: at(4), end: at(5), state: 'listed' },
    ]
    const lane = { zone, known: true, hours: [], spans, outside: 'outside' as const }
    expect([...takenFill(lane, zone, today, 5)]).toEqual([0, 1, 1, 0.5, 0])
  })

  it('begins on the Monday of this week as long as the lens is on it', () => {
    expect(ribbonStart({ first: today, days: 1 }, today)).toBe(day(2026, 11, 23))
    expect(ribbonStart({ first: day(2026, 11, 23) + RIBBON_DAYS - 7, days: 7 }, today)).toBe(
      day(2026, 11, 23),
    )
  })

  it('moves with a lens that leaves it, so that the lens is inside', () => {
    for (const first of [day(2027, 6, 10), day(2026, 8, 1)]) {
      const start = ribbonStart({ first, days: 7 }, today)
      expect(first).toBeGreaterThanOrEqual(start)
      expect(first + 7).toBeLessThanOrEqual(start + RIBBON_DAYS)
    }
  })
})
