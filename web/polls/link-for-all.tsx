import { type OrganizedPoll, renewPollLink } from '@marmot/contract/organized-polls'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { newSecret } from '../platform/secret.ts'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Button, Trouble } from '../ui/parts.tsx'

/** The link with which anyone may answer. It is shown by whoever made it, once: Marmot keeps nothing of it that could be shown. */
export const LinkForAll = ({ poll, door }: { poll: OrganizedPoll; door: string | null }) => {
  const [made, setMade] = useState(door)
  const { busy, trouble, attempt } = useAttempt()
  const keyOf = useKeyOf()
  const address = made ? `${location.origin}/q/${made}` : ''
  const copy = () =>
    navigator.clipboard.writeText(address).then(
      () => toast.success('The link is copied.'),
      () => toast.error('The browser does not allow copying here. Mark the address and copy it.'),
    )
  const renew = () =>
    attempt(async () => {
      const next = newSecret()
      await call(renewPollLink, { params: { pollId: poll.pollId }, body: { door: next }, key: keyOf(next) })
      setMade(next)
    })
  return (
    <section aria-label="Link for all" className="mx-4 flex flex-col gap-1.5 rounded-lg bg-paper px-4 py-2.5">
      {made ? (
        <>
          <p>Whoever has this link may answer. Copy it now: it is not shown again.</p>
          <div className="flex flex-wrap items-center gap-2">
            <code className="min-w-0 flex-1 truncate rounded bg-ground px-2 py-1 text-sm">{address}</code>
            <Button onClick={copy}>Copy the link</Button>
          </div>
        </>
      ) : (
        <div className="flex flex-wrap items-center gap-3">
          <p className="flex-1 text-soft">Whoever has the link for all may answer.</p>
          <Button disabled={busy} onClick={renew}>
            {busy ? 'Making…' : 'Make a new one; the old one ends'}
          </Button>
        </div>
      )}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
    </section>
  )
}
