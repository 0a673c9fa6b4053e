import { EllipsisVertical } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { type KeyboardEvent, useState } from 'react'

/** One thing that can be done with a lane, with its key. */
export interface Doing {
  readonly words: string
  readonly key: string
  readonly run: () => void
}

const BUTTON =
  'grid size-6 shrink-0 place-items-center rounded text-soft hover:bg-shade data-[state=open]:bg-shade max-md:size-thumb'

const OPENS: readonly string[] = ['ArrowDown', 'Enter', ' ']

/**
 * What can be done with a lane, in its own menu. Of hundreds of lanes one’s menu is opened: until then it is a button and no more, since
 * a menu that waits is a tenth of what drawing a lane takes.
 */
export const LaneMenu = ({ name, doings }: { name: string; doings: readonly Doing[] }) => {
  const [asked, setAsked] = useState(false)
  const label = `What to do with ${name}`
  const dots = <EllipsisVertical size={15} aria-hidden />
  const openByKey = (event: KeyboardEvent) => {
    if (!OPENS.includes(event.key)) return
    event.preventDefault()
    setAsked(true)
  }
  return asked ? (
    <DropdownMenu.Root modal={false} defaultOpen>
      <DropdownMenu.Trigger aria-label={label} className={BUTTON}>
        {dots}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={2}
          className="z-40 min-w-56 rounded-lg border border-line bg-paper p-1 shadow-xl"
        >
          {doings.map((each) => (
            <DropdownMenu.Item
              key={each.words}
              onSelect={each.run}
              className="flex min-h-8 cursor-pointer items-center justify-between gap-4 rounded px-2.5 outline-none data-highlighted:bg-shade max-md:min-h-thumb"
            >
              {each.words}
              <kbd className="font-sans text-soft text-xs">{each.key}</kbd>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  ) : (
    <button
      type="button"
      aria-label={label}
      aria-haspopup="menu"
      aria-expanded={false}
      className={BUTTON}
      onClick={() => setAsked(true)}
      onKeyDown={openByKey}
    >
      {dots}
    </button>
  )
}
