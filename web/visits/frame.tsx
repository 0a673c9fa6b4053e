import type { ReactNode } from 'react'
import { flower } from '../ui/parts.tsx'

/** Whose page it is: the organisation's name and mark, and an accent of its own. */
export const Frame = ({
  head,
  wide = false,
  children,
}: {
  head: { readonly organisation: string; readonly accent: number }
  wide?: boolean
  children: ReactNode
}) => (
  <main className="min-h-full border-t-[6px]" style={{ borderColor: flower(head.accent) }}>
    <div className={`mx-auto flex flex-col gap-4 p-3 md:p-6 ${wide ? 'max-w-5xl' : 'max-w-2xl'}`}>
      <p className="flex items-center gap-2 text-soft">
        <img src="/mark.svg" alt="" width={28} height={28} /> {head.organisation}
      </p>
      {children}
    </div>
  </main>
)

/** Nothing is offered: the same where it is off and where nothing ever was. */
export const NotOffered = () => (
  <main className="mx-auto flex min-h-full max-w-lg flex-col justify-center gap-3 p-6">
    <img src="/mark.svg" alt="" width={44} height={44} />
    <h1 className="font-bold text-2xl">Nothing is offered here just now</h1>
    <p>
      The page may have been taken down, or its address may be another. Write to whoever sent you here;
      nothing of yours was sent.
    </p>
  </main>
)
