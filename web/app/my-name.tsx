import { ChevronDown, CircleUser } from 'lucide-react'

export const MY_BUTTON =
  'flex min-h-8 items-center gap-1.5 rounded px-2 hover:bg-bar-ink/15 max-md:size-thumb max-md:justify-center'

/** Who is signed in, as it stands in the bar: on a narrow screen a sign for it. */
export const MyName = ({ name }: { name: string }) => (
  <>
    <CircleUser size={18} aria-hidden className="md:hidden" />
    <span className="max-md:hidden">{name}</span>
    <ChevronDown size={14} aria-hidden className="max-md:hidden" />
  </>
)
