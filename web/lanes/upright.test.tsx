// @vitest-environment happy-dom
import { instantOf, wallOf, zoneTable } from '@marmot/core/time'
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, expect, it } from 'vitest'
import { wallAxis } from './axis.ts'
import type { BoardProps, BoardRow } from './types.ts'
import { Upright } from './upright.tsx'

afterEach(cleanup)

const home = zoneTable('Europe/Vienna')
const DAY = Date.parse('2026-11-23T00:00:00Z') / 86_400_000
const axis = wallAxis(home, DAY, 420, 1200)
const NAMES = [
  'Ilse Brandacher',
  'Matteo Ruprechter',
  'Wanjiru Kamande',
  'Tashi Lhendup',
  'Catalina Reyes',
  'Aroha Pene',
]
const rows: BoardRow[] = NAMES.map((name) => ({
  id: name,
  name,
  label: name,
  axis,
  time: { zone: home.zone, known: true, hours: [], outside: 'outside', spans: [] },
}))

const shown = (across: BoardProps['across']) => {
  const board: BoardProps = {
    label: 'My days',
    groups: [{ id: 'all', zone: home, axis, title: '', rows }],
    home,
    now: instantOf(home, wallOf(DAY, 540)),
    step: 15,
    minutes: 30,
    across,
    chosen: null,
    days: false,
    onChoose: () => undefined,
  }
  render(
    <Upright
      board={board}
      rows={rows}
      width={390}
      frameWords=""
      wordsFor={() => 'no time chosen'}
      onKeys={() => undefined}
      scroller={{ current: null }}
    />,
  )
  return screen.getAllByRole('gridcell').map((cell) => cell.getAttribute('aria-label')?.split(',')[0])
}

it('beside one’s own as many lanes stand as can be read, and who has no room is named', () => {
  expect(shown('row')).toEqual(NAMES.slice(0, 4))
  expect(screen.getByText(/No room here for Catalina and Aroha/)).toBeTruthy()
})

it('where a time is looked for that suits all, all stand, however narrow', () => {
  expect(shown('all')).toEqual(NAMES)
  expect(screen.queryByText(/No room/)).toBeNull()
})
