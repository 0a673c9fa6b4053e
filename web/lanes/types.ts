import type { BusySpan, LaneTime, Span } from '@marmot/core/availability'
import type { Instant, ZoneTable } from '@marmot/core/time'
import type { KeyboardEvent, ReactNode } from 'react'
import type { Axis } from './axis.ts'

/**
 * What kind of thing a block is, drawn at its left edge without colour: a bar for what one organizes, notches for what one is
 * invited to, a bracket for a reservation, nothing for one's own time.
 */
export type BlockKind = 'organized' | 'invited' | 'reservation' | 'own'

/** How a block looks beside its state, which its height says. */
export interface BlockLook {
  readonly kind: BlockKind
  /** Behind its title: how many have answered. */
  readonly note?: string
  /** Before its title, so that it is never cut: that it asks for an answer. */
  readonly asks?: string
  /** The line under its title: its time and place. */
  readonly under?: string
  /** The colour of its category: a dot before its title. */
  readonly dot?: string | undefined
}

export interface BoardRow {
  readonly id: string
  /** What a screen reader hears first: "Tashi Lhendup, Kathmandu". */
  readonly name: string
  readonly label: ReactNode
  /** Its name as a column has room for it; without one the first word of its name. */
  readonly short?: string
  readonly time: LaneTime
  readonly axis: Axis
  readonly faded?: boolean
  /** A lane of little interest, drawn low: a day on which nobody works and nothing happens. */
  readonly low?: boolean
  readonly today?: boolean
  /** Only to be looked at: no time is drawn or moved on it. */
  readonly still?: boolean
  /** Others' time laid over this lane: a thin strip each along its lower edge. */
  readonly over?: readonly OverLane[]
  /** Days on a lane of several: where each begins, and its date. */
  readonly marks?: readonly Mark[]
}

/** Somebody's time laid over a lane. */
export interface OverLane {
  readonly id: string
  readonly name: string
  readonly colour: string
  readonly time: LaneTime
}

/** A day on a lane of several days. */
export interface Mark {
  /** Where it begins, 0 to 1. */
  readonly at: number
  readonly width: number
  readonly words: string
  readonly today: boolean
  readonly weekend: boolean
}

export interface BoardGroup {
  readonly id: string
  readonly title: ReactNode
  readonly zone: ZoneTable
  readonly axis: Axis
  readonly rows: readonly BoardRow[]
  /** Other zones whose hours stand under the group's own. */
  readonly alsoZones?: readonly { readonly zone: ZoneTable; readonly title: ReactNode }[]
  /** What stands in place of the hours, on lanes of several days. */
  readonly ruler?: ReactNode
}

/** The chosen time. On a board where each lane has its own day, or times are drawn, `rowId` says on which. */
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
  /**
   * Across all lanes: whether a time is drawn from where a drag begins to where it ends, on the lane on which it began, and
   * a press on another lane within the chosen time is that lane's, too. Without it the time is moved as a whole.
   */
  readonly draws?: boolean
  readonly chosen: Chosen | null
  /** When it is as yet, where it is to be moved: across all lanes. */
  readonly present?: Span | null
  /** Times that several people are asked about: across all lanes, each with its number or other words. */
  readonly asked?: readonly (Span & { readonly words: string })[]
  readonly lights?: readonly Light[]
  /** Whether the axis spans several days, so that rulers say them. */
  readonly days: boolean
  /** A time was chosen or let go. All the changes of one drag have the same `gesture`. */
  readonly onChoose: (chosen: Chosen | null, gesture?: number) => void
  /** A new time was drawn or taken by Enter, or a moved block was let go. */
  readonly onTake?: (chosen: Chosen, moved: BusySpan | null) => void
  readonly onOpen?: (span: BusySpan, row: BoardRow) => void
  /** Whether a block may be dragged. */
  readonly mayMove?: (span: BusySpan) => boolean
  /** Something from elsewhere that is being dragged, which takes so many minutes: let go over a lane, it stands there. */
  readonly carried?: { readonly minutes: number } | null
  readonly onDropped?: (chosen: Chosen) => void
  /** A block that was taken up by a key: Enter puts it down at the chosen time. */
  readonly holding?: BusySpan | null
  /** How a block looks beside its state. */
  readonly lookOf?: (span: BusySpan) => BlockLook | undefined
  /** The entry whose sheet is open: its block is outlined. */
  readonly opened?: string | null
  /** Blocks that a filter leaves out: faint, but there, since they are not free. */
  readonly faint?: (span: BusySpan) => boolean
  /** Lanes so low that one line of words just fits. */
  readonly dense?: boolean
  /** Of very many lanes: those that come near to what is in sight, so that their time can be fetched. */
  readonly onNear?: (rows: readonly BoardRow[]) => void
  readonly rowKeys?: (event: KeyboardEvent, row: BoardRow) => void
  readonly empty?: ReactNode
  /** Only to be looked at: nothing on it moves. */
  readonly still?: boolean
  /** Turned, for a narrow screen: hours run downward, a lane is a column, and its width says how available it is. */
  readonly upright?: boolean
}
