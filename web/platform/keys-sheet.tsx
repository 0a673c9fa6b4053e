import { Sheet } from '../ui/sheet.tsx'

/** The keys that hold on a screen, with what each does. */
export const KeysSheet = ({
  keys,
  onClose,
}: {
  keys: readonly { readonly keys: string; readonly does: string }[]
  onClose: () => void
}) => (
  <Sheet open onClose={onClose} title="Keys of this screen" over>
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1.5">
      {keys.map((key) => (
        <div key={key.keys + key.does} className="contents">
          <dt>
            <kbd className="rounded border border-line bg-ground px-1.5 font-sans">{key.keys}</kbd>
          </dt>
          <dd>{key.does}</dd>
        </div>
      ))}
    </dl>
  </Sheet>
)
