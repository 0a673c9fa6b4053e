import { MINUTE } from '@marmot/core/time'
import type { DragEvent, RefObject } from 'react'
import { snap } from './axis.ts'
import { underPointer } from './drag.ts'
import type { BoardProps, BoardRow, Chosen } from './types.ts'

/** What is dragged onto a board from elsewhere: the time over which it hangs is chosen, and where it is let go it is told of. */
export const useDrop = (
  props: BoardProps,
  rows: readonly BoardRow[],
  board: RefObject<HTMLDivElement | null>,
) => {
  const { carried, chosen, home, step, onChoose, onDropped } = props
  const { rowUnder, timeUnder } = underPointer(props, rows, board)
  /** Null where nothing can be let go: over what is only looked at. */
  const under = (event: DragEvent): Chosen | null => {
    const row = carried ? rowUnder(event) : null
    const at = row && !row.still ? timeUnder(event, row.axis) : null
    if (!carried || !row || at === null) return null
    const start = snap(at, step, home)
    return { start, end: start + carried.minutes * MINUTE, rowId: row.id }
  }
  return {
    onDragOver: (event: DragEvent) => {
      const next = under(event)
      if (!next) return
      event.preventDefault()
      event.dataTransfer.dropEffect = 'copy'
      if (next.start !== chosen?.start || next.rowId !== chosen.rowId) onChoose(next)
    },
    onDrop: (event: DragEvent) => {
      const next = under(event)
      if (!next) return
      event.preventDefault()
      onChoose(null)
      onDropped?.(next)
    },
  }
}
