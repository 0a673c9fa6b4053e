import { zoneTable } from '@marmot/core/time'
import { useState } from 'react'
import { askOutside, PROVE } from '../outside/routes.ts'
import { problemCode, problemWords } from '../platform/problem.ts'
import { newSecret } from '../platform/secret.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Trouble } from '../ui/parts.tsx'
import { browserZone } from '../ui/zone-choice.tsx'
import { type Taken, TakenWords } from './taken.tsx'

/** Where the link in a letter leads that asks whether an address is its owner’s: one press takes the time that is kept. */
export const Proof = ({ token, again }: { token: string; again: string }) => {
  const [own] = useState(newSecret)
  const [taken, setTaken] = useState<Taken | null>(null)
  const { busy, trouble, attempt } = useAttempt()
  const take = () =>
    attempt(async () => {
      const answer = await askOutside(PROVE, { params: { token }, body: { own } })
      setTaken({ ...answer, own, moved: false, address: 'your address' })
    })
  return (
    <main className="mx-auto flex min-h-full max-w-lg flex-col justify-center gap-4 p-6">
      {taken ? (
        <TakenWords taken={taken} zone={zoneTable(browserZone('UTC'))} now={Date.now()} />
      ) : (
        <>
          <h1 className="font-bold text-2xl">Is this you?</h1>
          <p>A time is kept for whoever has the letter that led you here.</p>
          {trouble !== null && (
            <Trouble>
              {problemCode(trouble) === 'not-offered'
                ? 'That time is not kept any more. Choose one again.'
                : problemWords(trouble)}
            </Trouble>
          )}
          <div className="flex flex-wrap gap-2">
            <Button tone="primary" className="min-h-12" disabled={busy} onClick={take}>
              {busy ? 'Taking it…' : 'Yes, take the time'}
            </Button>
            <a className="inline-flex min-h-12 items-center px-2 text-gentian underline" href={again}>
              Choose another
            </a>
          </div>
        </>
      )}
    </main>
  )
}
