import { Popover } from 'radix-ui'
import type { ReactNode } from 'react'

/** A small sheet that opens beside what was pressed, and closes with Escape or a press elsewhere. */
export const Popping = ({
  trigger,
  label,
  side = 'top',
  align = 'start',
  className = 'w-80 p-3',
  open,
  onOpenChange,
  onOpenAutoFocus,
  children,
}: {
  /** The button that opens it. */
  trigger: ReactNode
  label: string
  side?: 'top' | 'bottom'
  align?: 'start' | 'end'
  /** Its width and padding, and how its parts lie. */
  className?: string
  open?: boolean | undefined
  onOpenChange?: ((open: boolean) => void) | undefined
  onOpenAutoFocus?: ((event: Event) => void) | undefined
  children: ReactNode
}) => (
  <Popover.Root {...(open === undefined ? {} : { open })} {...(onOpenChange ? { onOpenChange } : {})}>
    <Popover.Trigger asChild>{trigger}</Popover.Trigger>
    <Popover.Portal>
      <Popover.Content
        side={side}
        align={align}
        sideOffset={6}
        aria-label={label}
        {...(onOpenAutoFocus ? { onOpenAutoFocus } : {})}
        className={`z-40 max-w-[92vw] rounded-lg border border-line bg-paper shadow-xl ${className}`}
      >
        {children}
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
)

/** What closes the sheet around it when it was pressed. */
export const ClosesPopping = ({ children }: { children: ReactNode }) => (
  <Popover.Close asChild>{children}</Popover.Close>
)
