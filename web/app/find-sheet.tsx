import type { Key } from '../platform/keys.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { Jump } from './jump.tsx'

/** Finds anything, over whichever screen one is on. */
export const FindSheet = ({ keys, onDone }: { keys: readonly Key[]; onDone: () => void }) => (
  <Sheet open onClose={onDone} title="Find" over>
    <Jump keys={keys} onDone={onDone} />
  </Sheet>
)
