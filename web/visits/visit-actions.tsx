import { cancelVisit } from '@marmot/contract/visits'
import { shortTime, type ZoneTable } from '@marmot/core/time'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { useVisit } from './visit.ts'

/** What a visitor may still do about their visit; nothing where the meeting is none of theirs. */
export const VisitActions = ({
  token,
  zone,
  onChanged,
}: {
  token: string
  zone: ZoneTable
  onChanged: () => void
}) => {
  const visit = useVisit(token, true)
  const [sure, setSure] = useState(false)
  const [reason, setReason] = useState('')
  const { busy, trouble, attempt } = useAttempt()
  if (!visit.data) return null
  const { page, kind, host, moveUntil, cancelUntil } = visit.data
  const cancel = async () => {
    if (await attempt(() => call(cancelVisit, { params: { token }, body: { reason } }))) {
      setSure(false)
      await visit.refetch()
      onChanged()
    }
  }
  if (!moveUntil && !cancelUntil)
    return <p className="text-soft">It can be moved or cancelled by {host} alone now. Write to them.</p>
  return (
    <section aria-label="Your visit" className="flex flex-col gap-2">
      <div className="flex flex-wrap gap-2">
        {moveUntil && (
          <a
            className="inline-flex min-h-thumb items-center rounded-md border border-soft/50 bg-paper px-3 hover:bg-shade"
            href={`/v/${page}/${kind}?visit=${token}`}
          >
            Choose another time
          </a>
        )}
        {cancelUntil && !sure && (
          <Button tone="trouble" className="min-h-thumb" onClick={() => setSure(true)}>
            Cancel it…
          </Button>
        )}
      </div>
      {sure && (
        <div className="flex flex-col gap-2 rounded-lg bg-paper px-4 py-3">
          <Field label={`Words to ${host} (optional)`}>
            {(props) => (
              <input
                {...props}
                maxLength={1000}
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
            )}
          </Field>
          <div className="flex gap-2">
            <Button className="min-h-thumb" onClick={() => setSure(false)}>
              Keep it
            </Button>
            <Button tone="trouble" className="min-h-thumb" disabled={busy} onClick={cancel}>
              {busy ? 'Cancelling…' : `Cancel it, and tell ${host}`}
            </Button>
          </div>
        </div>
      )}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <p className="text-soft text-sm">
        {moveUntil && `It can be moved until ${shortTime(Date.parse(moveUntil), zone)}`}
        {moveUntil && cancelUntil && ', and '}
        {cancelUntil &&
          `${moveUntil ? '' : 'It can be '}cancelled until ${shortTime(Date.parse(cancelUntil), zone)}`}
        .
      </p>
    </section>
  )
}
