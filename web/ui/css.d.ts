import 'react'

declare module 'react' {
  interface CSSProperties {
    /** The height of a lane on the board below. */
    '--lane'?: string
    '--label'?: string
  }
}
