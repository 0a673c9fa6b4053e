import { publishFeed } from '@marmot/contract/feeds'
import { useQueryClient } from '@tanstack/react-query'
import { Rss } from 'lucide-react'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Trouble } from '../ui/parts.tsx'

/** As far ahead as most things are reserved. */
const MONTHS = 12

/** An address by which one follows a place in another program; it is told once, and stopped in the settings. */
export const FollowPlace = ({ placeId, name }: { placeId: string; name: string }) => {
  const queries = useQueryClient()
  const [address, setAddress] = useState<string | null>(null)
  const [copied, setCopied] = useState(false)
  const { busy, trouble, attempt } = useAttempt()
  const make = () =>
    attempt(async () => {
      const made = await call(publishFeed, {
        body: { kind: 'place', place: placeId, months: MONTHS },
        key: crypto.randomUUID(),
      })
      setAddress(`${made.address}.ics`)
      void queries.invalidateQueries({ queryKey: ['feeds'] })
    })
  return (
    <section aria-label="In another calendar" className="flex flex-col gap-2">
      <h3 className="font-semibold">In another calendar</h3>
      {address ? (
        <>
          <p className="text-sm">
            Subscribe to this address. It shows what you may know, so keep it to yourself; it is told this
            once, and stopped under People, Feeds.
          </p>
          <code className="break-all rounded-md bg-shade px-2.5 py-1.5 text-[13px]">{address}</code>
          <Button
            className="self-start"
            onClick={() => navigator.clipboard?.writeText(address).then(() => setCopied(true))}
          >
            {copied ? 'Copied' : 'Copy it'}
          </Button>
        </>
      ) : (
        <Button className="self-start" disabled={busy} onClick={make}>
          <Rss size={15} aria-hidden /> Get an address for {name}
        </Button>
      )}
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
    </section>
  )
}
