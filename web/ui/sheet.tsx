import { X } from 'lucide-react'
import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'

/** A sheet over the lanes: from the right on a wide screen, from below on a narrow one. Escape closes it. */
export const Sheet = ({
  open,
  onClose,
  title,
  children,
  wide = false,
}: {
  open: boolean
  onClose: () => void
  title: ReactNode
  children: ReactNode
  wide?: boolean
}) => (
  <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
    <Dialog.Portal>
      <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
      <Dialog.Content
        aria-describedby={undefined}
        onEscapeKeyDown={(event) => {
          // Escape leaves a field that has a use of its own for it; what was chosen with it stays.
          if (event.target instanceof Element && event.target.closest('[data-takes-escape]'))
            event.preventDefault()
        }}
        onOpenAutoFocus={(event) => {
          // The field one came for, marked `data-first`, rather than the button that closes.
          if (!(event.target instanceof HTMLElement)) return
          const first = event.target.querySelector<HTMLElement>('[data-first]')
          if (!first) return
          event.preventDefault()
          first.focus()
        }}
        className={`fixed z-50 flex flex-col bg-paper shadow-2xl max-md:inset-x-0 max-md:bottom-0 max-md:max-h-[88dvh] max-md:rounded-t-xl md:top-0 md:right-0 md:h-full ${wide ? 'md:w-[620px]' : 'md:w-[430px]'}`}
      >
        <div className="flex items-start gap-3 border-line border-b px-5 py-3.5">
          <Dialog.Title className="flex-1 text-balance font-semibold text-lg leading-snug">
            {title}
          </Dialog.Title>
          <Dialog.Close className="-mr-1.5 rounded p-1.5 hover:bg-shade" aria-label="Close">
            <X size={18} aria-hidden />
          </Dialog.Close>
        </div>
        <div className="min-h-0 flex-1 overflow-y-auto px-5 py-4">{children}</div>
      </Dialog.Content>
    </Dialog.Portal>
  </Dialog.Root>
)
