import type { Scope } from '@marmot/core/entries'
import { type Instant, minutesBetween, spanInWords, toWall, wallText, zoneTable } from '@marmot/core/time'
import { useState } from 'react'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Loading } from '../ui/parts.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { type OwnSpan, useEntry } from './entries.ts'
import { impactOf, ScopeField } from './scope-field.tsx'

/** A date of a series was dragged: is it this date only, this and the following, or all? */
export const MoveQuestion = ({
  moved,
  start,
  end,
  onMove,
  onClose,
}: {
  moved: OwnSpan
  start: Instant
  end: Instant
  onMove: (scope: Scope) => Promise<void>
  onClose: () => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const { entryId, recurrence, title } = moved.occurrence
  const entry = useEntry(entryId, recurrence)
  const [scope, setScope] = useState<Scope>('this')
  const [busy, setBusy] = useState(false)
  // One date by itself changes no other, so that nothing has to be known first.
  const waiting = scope !== 'this' && entry.isPending
  const impact = entry.data
    ? impactOf(entry.data, {
        scope,
        starts: wallText(toWall(zoneTable(entry.data.zone), start)),
        minutes: minutesBetween(start, end),
        allDay: entry.data.allDay,
      })
    : ''
  return (
    <Sheet open onClose={onClose} title={`Move ${title || 'this entry'}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          setBusy(true)
          void onMove(scope)
        }}
      >
        <p className="font-semibold">{spanInWords(start, end, zone, now)}</p>
        <p className="text-soft">It repeats. Which dates are moved like this one?</p>
        <ScopeField value={scope} impact={impact} onChange={setScope} />
        {waiting && <Loading what="what was changed before" />}
        <div className="flex gap-2">
          <span className="flex-1" />
          <Button onClick={onClose}>Leave it where it was</Button>
          <Button type="submit" tone="primary" data-first disabled={busy || waiting}>
            {busy ? 'Moving…' : 'Move'}
          </Button>
        </div>
      </form>
    </Sheet>
  )
}
