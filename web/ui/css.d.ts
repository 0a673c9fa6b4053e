import 'react'

declare module 'react' {
  interface CSSProperties {
    /** The height of a lane on the board below. */
    '--lane'?: string
    '--label'?: string
    /** How tall a board is on which hours run downward. */
    '--upright'?: string
  }
}
