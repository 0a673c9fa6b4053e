import type { BusySpan } from '@marmot/core/availability'
import { dayFromCivil, instantFromText, zoneTable } from '@marmot/core/time'
import type { KeyboardEvent } from 'react'
import { describe, expect, it } from 'vitest'
import { instantAxis, wallAxis } from './axis.ts'
import { pressKey } from './keyboard.ts'
import type { BoardProps, BoardRow, Chosen } from './types.ts'

const vienna = zoneTable('Europe/Vienna')
const at = (text: string) => instantFromText('Europe/Vienna', text)
const time = (spans: readonly BusySpan[] = []) => ({
  zone: 'Europe/Vienna',
  known: true,
  hours: [],
  spans,
  outside: 'outside' as const,
})

/** Two days under each other, as My time has them; the clocks change between them. */
const days = ['2027-03-27', '2027-03-28'].map((text, i): BoardRow => {
  const day = dayFromCivil(2027, 3, 27 + i) ?? 0
  return { id: text, name: text, label: null, time: time(), axis: wallAxis(vienna, day, 0, 1440) }
})
const people = ['Ilse', 'Tashi'].map(
  (name): BoardRow => ({
    id: name,
    name,
    label: null,
    time: time(),
    axis: instantAxis(at('2026-12-03T00:00'), at('2026-12-04T00:00')),
  }),
)

/** Presses a key on a lane and tells what the board asked for. */
const press = (
  key: string,
  rows: readonly BoardRow[],
  on: number,
  given: Partial<BoardProps>,
  more: Partial<KeyboardEvent> = {},
) => {
  const row = rows[on]
  if (!row) throw new Error('no such lane')
  const asked = {
    chosen: undefined as Chosen | null | undefined,
    taken: null as { chosen: Chosen; moved: BusySpan | null } | null,
    opened: null as BusySpan | null,
    focused: null as string | null,
    left: false,
    stopped: false,
  }
  const lane = {}
  const event = {
    key,
    shiftKey: false,
    ctrlKey: false,
    altKey: false,
    metaKey: false,
    target: lane,
    currentTarget: lane,
    preventDefault: () => {
      asked.stopped = true
    },
    stopPropagation: () => undefined,
    ...more,
  } as unknown as KeyboardEvent
  const props: BoardProps = {
    label: '',
    groups: [{ id: 'g', title: null, zone: vienna, axis: row.axis, rows }],
    home: vienna,
    now: at('2026-12-03T09:07'),
    step: 15,
    minutes: 30,
    across: 'all',
    chosen: null,
    days: false,
    onChoose: (chosen) => {
      asked.chosen = chosen
    },
    onTake: (chosen, moved) => {
      asked.taken = { chosen, moved }
    },
    onOpen: (span) => {
      asked.opened = span
    },
    rowKeys: () => {
      asked.left = true
    },
    ...given,
  }
  pressKey(event, row, props, (id) => {
    asked.focused = id
  })
  return asked
}

const chosen = (from: string, to: string, rowId: string | null = null): Chosen => ({
  start: at(from),
  end: at(to),
  rowId,
})

describe('keys on a lane', () => {
  it('move a time by a step, with Shift its end, never past its start', () => {
    const here = chosen('2026-12-03T14:00', '2026-12-03T14:15')
    expect(press('ArrowRight', people, 0, { chosen: here }).chosen).toEqual(
      chosen('2026-12-03T14:15', '2026-12-03T14:30'),
    )
    expect(press('ArrowLeft', people, 0, { chosen: here }).chosen).toEqual(
      chosen('2026-12-03T13:45', '2026-12-03T14:00'),
    )
    expect(press('ArrowRight', people, 0, { chosen: here }, { shiftKey: true }).chosen).toEqual(
      chosen('2026-12-03T14:00', '2026-12-03T14:30'),
    )
    expect(press('ArrowLeft', people, 0, { chosen: here }, { shiftKey: true }).chosen).toEqual(here)
  })

  it('begin with the next step from now on, of the length in hand', () => {
    expect(press('Enter', people, 0, {}).chosen).toEqual(chosen('2026-12-03T09:15', '2026-12-03T09:45'))
    // Where now is not on the lane, they begin where the lane does.
    expect(press('Enter', people, 0, { now: at('2026-11-23T09:00') }).chosen?.start).toBe(
      at('2026-12-03T00:15'),
    )
  })

  it('go from lane to lane, and take the time along where each is a day of its own', () => {
    expect(press('ArrowDown', people, 0, {}).focused).toBe('Tashi')
    expect(press('ArrowDown', people, 1, {}).focused).toBeNull()
    const here = chosen('2027-03-27T10:00', '2027-03-27T11:00', '2027-03-27')
    const down = press('ArrowDown', days, 0, { across: 'row', chosen: here })
    // The same hour on the clock, though the day between has only 23.
    expect(down.chosen).toEqual(chosen('2027-03-28T10:00', '2027-03-28T11:00', '2027-03-28'))
    expect(down.focused).toBe('2027-03-28')
  })

  it('carry what was taken up past the lanes that are only looked at, to the next day of one’s own', () => {
    const [first, second] = days
    if (!first || !second) throw new Error('no days')
    const beside = (day: BoardRow): BoardRow => ({ ...day, id: `${day.id} Matteo`, still: true })
    const rows = [first, beside(first), second, beside(second)]
    const here = chosen('2027-03-27T10:00', '2027-03-27T11:00', '2027-03-27')
    const held: BusySpan = { start: here.start, end: here.end, state: 'busy', entryId: 'e' }
    const down = press('ArrowDown', rows, 0, { across: 'row', chosen: here, holding: held })
    expect([down.focused, down.chosen?.rowId]).toEqual(['2027-03-28', '2027-03-28'])
    const there = chosen('2027-03-28T10:00', '2027-03-28T11:00', '2027-03-28')
    const up = press('ArrowUp', rows, 2, { across: 'row', chosen: there, holding: held })
    expect(up.focused).toBe('2027-03-27')
    // With nothing in hand one goes to all of them.
    expect(press('ArrowDown', rows, 0, { across: 'row' }).focused).toBe('2027-03-27 Matteo')
  })

  it('open the entry that was gone to, else what lies under the time, else make a new one', () => {
    const long: BusySpan = {
      start: at('2027-03-27T09:00'),
      end: at('2027-03-27T12:00'),
      state: 'busy',
      entryId: 'long',
    }
    const short: BusySpan = {
      start: at('2027-03-27T10:00'),
      end: at('2027-03-27T11:00'),
      state: 'busy',
      entryId: 'short',
    }
    const rows = days.map((row, i) => (i === 0 ? { ...row, time: time([long, short]) } : row))
    const on = (from: string, to: string) =>
      press('Enter', rows, 0, { across: 'row', chosen: chosen(from, to, '2027-03-27') })
    expect(on('2027-03-27T10:00', '2027-03-27T11:00').opened).toBe(short)
    expect(on('2027-03-27T09:15', '2027-03-27T09:45').opened).toBe(long)
    const free = on('2027-03-27T14:00', '2027-03-27T15:00')
    expect(free.opened).toBeNull()
    expect(free.taken).toEqual({
      chosen: chosen('2027-03-27T14:00', '2027-03-27T15:00', '2027-03-27'),
      moved: null,
    })
  })

  it('put down what was taken up', () => {
    const held: BusySpan = { start: at('2027-03-27T09:00'), end: at('2027-03-27T10:00'), state: 'busy' }
    const here = chosen('2027-03-28T09:00', '2027-03-28T10:00', '2027-03-28')
    const put = press('Enter', days, 1, { across: 'row', chosen: here, holding: held })
    expect(put.taken).toEqual({ chosen: here, moved: held })
    expect(put.opened).toBeNull()
  })

  it('let the time go by Escape', () => {
    expect(
      press('Escape', people, 0, { chosen: chosen('2026-12-03T14:00', '2026-12-03T15:00') }).chosen,
    ).toBeNull()
  })

  it('choose nothing where a lane is only looked at, and leave all others to the screen', () => {
    const still = press('ArrowRight', people, 0, { still: true })
    expect([still.chosen, still.left, still.stopped]).toEqual([undefined, true, false])
    expect(press('ArrowDown', people, 0, { still: true }).focused).toBe('Tashi')
    const looked = days.map((row) => ({ ...row, still: true }))
    expect(press('Enter', looked, 0, { across: 'row' }).taken).toBeNull()
    expect(press('o', people, 0, {}).left).toBe(true)
    expect(press('ArrowRight', people, 0, {}, { ctrlKey: true }).left).toBe(true)
    // A button on the lane has its own keys.
    expect(press('Enter', people, 0, {}, { target: {} as EventTarget }).chosen).toBeUndefined()
  })
})
