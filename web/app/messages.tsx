import { type CSSProperties, useEffect } from 'react'
import { Toaster, toast } from 'sonner'
import { shownBy } from '../platform/toast.ts'

/** Messages stand over the right of the bar, where nothing is worked on. */
const IN_BAR = { top: 3, right: 8, left: 8 }

/** A second line of a message would lie where a sheet has its title. */
const ONE_LINE: CSSProperties & Record<'--width', string> = { '--width': 'min(640px, 96vw)' }

/** Where messages are shown. */
export const Messages = () => {
  // Runs after the toaster's own effects, when it listens.
  useEffect(() => shownBy(toast), [])
  return (
    <Toaster
      position="top-right"
      offset={IN_BAR}
      mobileOffset={IN_BAR}
      style={ONE_LINE}
      toastOptions={{
        // What lies below can still be pressed: of a message only its own button takes a press, and only of the newest.
        className: 'pointer-events-none! data-[front=true]:[&_button]:pointer-events-auto!',
        style: {
          background: 'var(--ink)',
          color: 'var(--ground)',
          border: '1px solid var(--ground)',
          fontFamily: 'var(--font-sans)',
          fontSize: 15,
          padding: '6px 10px',
          minHeight: 38,
        },
        actionButtonStyle: { background: 'var(--ground)', color: 'var(--ink)' },
      }}
    />
  )
}
