import { type ReactNode, useRef } from 'react'

/** Lets somebody choose files by a button of any look: where the field is put, and what the button does. */
export const usePickFiles = ({
  label,
  accept,
  onPick,
}: {
  label: string
  /** Media types, where not all are of use. */
  accept?: string
  onPick: (files: readonly File[]) => void
}): { readonly field: ReactNode; readonly pick: () => void } => {
  const input = useRef<HTMLInputElement>(null)
  const field = (
    <input
      ref={input}
      type="file"
      multiple
      hidden
      aria-label={label}
      {...(accept ? { accept } : {})}
      onChange={(event) => {
        const files = [...(event.target.files ?? [])]
        // The same file can be chosen once more.
        event.target.value = ''
        if (files.length) onPick(files)
      }}
    />
  )
  return { field, pick: () => input.current?.click() }
}
