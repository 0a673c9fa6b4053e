import type { BusySpan, LaneTime, Span } from '@marmot/core/availability'
import type { Instant, ZoneTable } from '@marmot/core/time'
import type { KeyboardEvent, ReactNode } from 'react'
import type { Axis } from './axis.ts'

export interface BoardRow {
  readonly id: string
  /** What a screen reader hears first: "Tashi Lhendup, Kathmandu". */
  readonly name: string
  readonly label: ReactNode
  readonly time: LaneTime
  readonly axis: Axis
  readonly faded?: boolean
  /** A colour for the edge of blocks and the dot; never the state. */
  readonly edge?: string
  readonly today?: boolean
}

export interface BoardGroup {
  readonly id: string
  readonly title: ReactNode
  readonly zone: ZoneTable
  readonly axis: Axis
  readonly rows: readonly BoardRow[]
}

/** The chosen time. On a board where each lane has its own day, `rowId` says which. */
export interface Chosen extends Span {
  readonly rowId: string | null
}

/** A band of sunlight over all lanes; `strength` 0 to 1. */
export interface Light extends Span {
  readonly strength: number
  readonly words: string
}

export interface BoardProps {
  readonly label: string
  readonly groups: readonly BoardGroup[]
  readonly home: ZoneTable
  readonly now: Instant
  readonly step: number
  /** The length of a new time, in minutes. */
  readonly minutes: number
  /** `all`: one time across all lanes. `row`: each lane is its own day. */
  readonly across: 'all' | 'row'
  readonly chosen: Chosen | null
  readonly lights?: readonly Light[]
  /** Whether the axis spans several days, so that rulers say them. */
  readonly days: boolean
  readonly onChoose: (chosen: Chosen | null) => void
  /** A new time was drawn or taken by Enter, or a moved block was let go. */
  readonly onTake?: (chosen: Chosen, moved: BusySpan | null) => void
  readonly onOpen?: (span: BusySpan, row: BoardRow) => void
  /** Whether a block may be dragged. */
  readonly mayMove?: (span: BusySpan) => boolean
  readonly rowKeys?: (event: KeyboardEvent, row: BoardRow) => void
  readonly empty?: ReactNode
  /** Only to be looked at: nothing on it moves. */
  readonly still?: boolean
}
