import { EllipsisVertical } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'

/** One thing that can be done with a lane, with its key. */
export interface Doing {
  readonly words: string
  readonly key: string
  readonly run: () => void
}

/** What can be done with a lane, in its own menu. */
export const LaneMenu = ({ name, doings }: { name: string; doings: readonly Doing[] }) => (
  <DropdownMenu.Root modal={false}>
    <DropdownMenu.Trigger
      aria-label={`What to do with ${name}`}
      className="grid size-6 shrink-0 place-items-center rounded text-soft hover:bg-shade data-[state=open]:bg-shade max-md:size-thumb"
    >
      <EllipsisVertical size={15} aria-hidden />
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
)
