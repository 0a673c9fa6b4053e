import { X } from 'lucide-react'
import { type ReactNode, useEffect, useId, useRef } from 'react'

/**
 * A sheet beside what one works on, which stays live and is not dimmed: at the right on a wide screen, from below on a narrow
 * one. Escape closes it. `foot` stays in sight.
 */
export const Beside = ({
  title,
  onClose,
  foot,
  children,
}: {
  title: ReactNode
  onClose: () => void
  foot?: ReactNode
  children: ReactNode
}) => {
  const id = useId()
  const section = useRef<HTMLElement>(null)
  const within = useRef(false)
  useEffect(() => {
    const before = document.activeElement
    section.current?.querySelector<HTMLElement>('[data-first]')?.focus()
    return () => {
      if (before instanceof HTMLElement && before.isConnected) before.focus()
    }
  }, [])
  // What was pressed may be gone by its own doing: the keys stay here.
  useEffect(() => {
    if (within.current && document.activeElement === document.body) section.current?.focus()
  })
  return (
    <section
      ref={section}
      tabIndex={-1}
      onFocus={() => {
        within.current = true
      }}
      onBlur={(event) => {
        if (event.relatedTarget instanceof Element && !event.currentTarget.contains(event.relatedTarget))
          within.current = false
      }}
      aria-labelledby={id}
      className="beside flex outline-none shrink-0 flex-col border-line bg-paper max-md:fixed max-md:inset-x-0 max-md:bottom-0 max-md:z-40 max-md:max-h-[82dvh] max-md:rounded-t-xl max-md:border-t max-md:shadow-2xl md:h-full md:w-[380px] md:border-l"
      onKeyDown={(event) => {
        const own = event.target instanceof Element && event.target.closest('[data-takes-escape]')
        if (event.key !== 'Escape' || event.defaultPrevented || own) return
        event.preventDefault()
        event.stopPropagation()
        onClose()
      }}
    >
      <div className="flex items-start gap-2 px-4 pt-3 pb-2">
        <h2 id={id} className="flex-1 text-balance font-semibold text-[20px] leading-tight">
          {title}
        </h2>
        <button
          type="button"
          aria-label="Close"
          className="-mr-1.5 grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
          onClick={onClose}
        >
          <X size={18} aria-hidden />
        </button>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-3">{children}</div>
      {foot && <div className="border-line border-t px-4 py-2.5">{foot}</div>}
    </section>
  )
}
