import { X } from 'lucide-react'
import { Dialog } from 'radix-ui'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { useNarrow } from './use-narrow.ts'

/** Widths of a sheet, in pixels; what it stands beside is narrowed by as much. */
const WIDTHS = { usual: 380, wide: 460, over: 620 } as const

/** The sheets that are open beside the screen, newest last: the screen makes room for the widest. */
const standing: number[] = []
const makeRoom = () => document.documentElement.style.setProperty('--aside', `${Math.max(0, ...standing)}px`)

/** Makes room beside the screen while a sheet of this width stands there; none for null. */
const useRoomBeside = (width: number | null) => {
  useEffect(() => {
    if (width === null) return
    standing.push(width)
    makeRoom()
    return () => {
      standing.splice(standing.indexOf(width), 1)
      makeRoom()
    }
  }, [width])
}

/** How far down the block lies that the sheet is about, in pixels from the top of the window; null where none is in sight. */
const useNotch = (shown: boolean): number | null => {
  const [at, setAt] = useState<number | null>(null)
  useEffect(() => {
    if (!shown) return
    const look = () => {
      const box = document.querySelector('[data-open-block]')?.getBoundingClientRect()
      setAt(box?.height ? Math.round(box.top + box.height / 2) : null)
    }
    const frame = requestAnimationFrame(look)
    const later = setTimeout(look, 300)
    document.addEventListener('scroll', look, true)
    window.addEventListener('resize', look)
    return () => {
      cancelAnimationFrame(frame)
      clearTimeout(later)
      document.removeEventListener('scroll', look, true)
      window.removeEventListener('resize', look)
    }
  }, [shown])
  return shown ? at : null
}

/** Gives the focus back to where it was before a sheet opened; where that is gone, to the lanes, else to the screen: never to nothing. */
const giveBack = (before: Element | null): void => {
  const active = document.activeElement
  // Whoever works on something else meanwhile stays there.
  if (active && active !== document.body) return
  const places = [
    before === document.body ? null : before,
    document.querySelector('#main [role="grid"] [tabindex="0"]'),
    document.querySelector('#main'),
  ]
  const place = places.find((one) => one instanceof HTMLElement && one.isConnected)
  if (place instanceof HTMLElement) place.focus({ preventScroll: true })
}

/**
 * Takes the focus to what one came for, where that comes after the sheet has opened and nobody has gone elsewhere meanwhile. Gives
 * the ref of it.
 */
export const useLateFirst = <T extends HTMLElement>() => {
  const ref = useRef<T>(null)
  useEffect(() => {
    const sheet = ref.current?.closest('[role=dialog]')
    const active = document.activeElement
    if (active === document.body || active === sheet || active?.closest('[role=dialog] [aria-label=Close]'))
      ref.current?.focus()
  }, [])
  return ref
}

/** What can be done with what a sheet shows: at its foot, in sight and in its place however long the sheet is, and while more comes. */
export const SheetFoot = ({ children }: { children: ReactNode }) => (
  <div className="sticky -bottom-4 z-10 -mx-5 mt-auto -mb-4 flex flex-wrap items-center justify-end gap-2 border-line border-t bg-paper px-5 py-3 max-md:*:px-2 max-md:[&_svg]:hidden">
    {children}
  </div>
)

/**
 * A sheet. On a wide screen it stands at the right, below the ribbon, beside what one works on, which narrows, is not dimmed and
 * stays live; with `over` it lies over the screen, for what has nothing to do with it. On a narrow screen it comes from below.
 * Escape closes it.
 */
export const Sheet = ({
  open,
  onClose,
  title,
  children,
  wide = false,
  over = false,
}: {
  open: boolean
  onClose: () => void
  title: ReactNode
  children: ReactNode
  wide?: boolean
  over?: boolean
}) => {
  const narrow = useNarrow()
  const beside = !narrow && !over
  const width = WIDTHS[over ? 'over' : wide ? 'wide' : 'usual']
  useRoomBeside(open && beside ? width : null)
  const notch = useNotch(open && beside)
  const before = useRef<Element | null>(null)
  return (
    // Another key as the screen turns: what is modal, and what is not, are made otherwise.
    <Dialog.Root key={String(beside)} open={open} modal={!beside} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        {!beside && <Dialog.Overlay className={`fixed inset-0 z-40 ${narrow ? 'bg-ink/25' : ''}`} />}
        <Dialog.Content
          aria-describedby={undefined}
          data-beside={beside || undefined}
          onInteractOutside={(event) => {
            // What stands beside it is worked on meanwhile.
            if (beside) event.preventDefault()
          }}
          onEscapeKeyDown={(event) => {
            // Escape leaves a field that has a use of its own for it; what was chosen with it stays.
            if (event.target instanceof Element && event.target.closest('[data-takes-escape]'))
              event.preventDefault()
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault()
            giveBack(before.current)
          }}
          onOpenAutoFocus={(event) => {
            before.current = document.activeElement
            // The field one came for, marked `data-first`, rather than the button that closes.
            if (!(event.target instanceof HTMLElement)) return
            const first = event.target.querySelector<HTMLElement>('[data-first]')
            if (!first) return
            event.preventDefault()
            first.focus()
          }}
          style={narrow ? undefined : { width }}
          className={`sheet fixed flex flex-col bg-paper max-md:inset-x-0 max-md:bottom-0 max-md:z-50 max-md:max-h-[88dvh] max-md:rounded-t-xl max-md:shadow-2xl md:right-0 md:bottom-0 ${beside ? 'z-30 border-line border-l' : 'z-50 shadow-2xl'}`}
        >
          {notch !== null && <i className="notch" style={{ top: notch }} aria-hidden />}
          <div className="flex items-start gap-3 px-5 pt-3 pb-2">
            <Dialog.Title className="flex-1 text-balance font-semibold text-[20px] leading-tight">
              {title}
            </Dialog.Title>
            <Dialog.Close
              className="-mr-1.5 grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
              aria-label="Close"
            >
              <X size={18} aria-hidden />
            </Dialog.Close>
          </div>
          <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-1 pb-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
