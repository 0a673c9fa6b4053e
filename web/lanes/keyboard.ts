import { MINUTE } from '@marmot/core/time'
import type { KeyboardEvent } from 'react'
import { snap } from './axis.ts'
import type { BoardProps, BoardRow, Chosen } from './types.ts'

/** A first chosen time on a lane: now, or the lane's beginning when now is not on it. */
const firstTime = (row: BoardRow, given: BoardProps): Chosen => {
  const length = given.minutes * MINUTE
  const from = Math.max(row.axis.from, Math.min(given.now, row.axis.to - length))
  const start = snap(from + (given.step * MINUTE) / 2, given.step, given.home)
  return { start, end: start + length, rowId: given.across === 'row' || given.draws ? row.id : null }
}

/** A key pressed on a lane: arrows move the time, with Shift its end; up and down go from lane to lane. */
export const pressKey = (
  event: KeyboardEvent,
  row: BoardRow,
  given: BoardProps,
  focusRow: (id: string) => void,
): void => {
  const rows = given.groups.flatMap((group) => group.rows)
  const unit = given.step * MINUTE
  const here = given.chosen
  const shift = (ms: number) => {
    const current = here ?? firstTime(row, given)
    if (event.shiftKey) given.onChoose({ ...current, end: Math.max(current.end + ms, current.start + unit) })
    else given.onChoose({ ...current, start: current.start + ms, end: current.end + ms })
  }
  const go = (by: 1 | -1) => {
    const at = rows.findIndex((each) => each.id === row.id)
    const ahead = by > 0 ? rows.slice(at + 1) : rows.slice(0, at).reverse()
    // What was taken up cannot be put down on a lane that is only looked at: it goes to the next of one's own.
    const next = given.holding ? ahead.find((each) => !each.still) : ahead[0]
    if (!next) return
    if (given.across === 'row' && here) {
      const start = next.axis.instant(row.axis.at(here.start))
      given.onChoose({ start, end: start + (here.end - here.start), rowId: next.id })
    }
    focusRow(next.id)
  }
  const open = () => {
    if (given.holding && here) {
      given.onTake?.(here, given.holding)
      return
    }
    const current = here && (given.across === 'all' || here.rowId === row.id) ? here : firstTime(row, given)
    if (row.still) return
    const under = row.time.spans.filter(
      (each) => each.entryId && each.start < current.end && each.end > current.start,
    )
    // What was gone to by its own time comes before what merely lies under it.
    const span = under.find((each) => each.start === current.start && each.end === current.end) ?? under[0]
    if ((given.across === 'row' || given.draws) && span) {
      given.onOpen?.(span, row)
      return
    }
    const taken = given.draws ? { ...current, rowId: row.id } : current
    given.onChoose(taken)
    given.onTake?.(taken, null)
  }
  const walking: [string, () => void][] = [
    ['ArrowUp', () => go(-1)],
    ['ArrowDown', () => go(1)],
  ]
  // On what is only to be looked at one goes from lane to lane, and no more.
  const actions = new Map(
    given.still
      ? walking
      : [
          ...walking,
          ['ArrowLeft', () => shift(-unit)],
          ['ArrowRight', () => shift(unit)],
          ['Enter', open],
          ['Escape', () => given.onChoose(null)],
        ],
  )
  const modified = event.ctrlKey || event.altKey || event.metaKey
  const act = modified || event.target !== event.currentTarget ? undefined : actions.get(event.key)
  if (!act) {
    given.rowKeys?.(event, row)
    return
  }
  event.preventDefault()
  event.stopPropagation()
  act()
}
