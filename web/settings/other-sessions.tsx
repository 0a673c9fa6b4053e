import { signOutElsewhere } from '@marmot/contract/people'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { Button, counted, Trouble } from '../ui/parts.tsx'

/** Ends my sessions on every other machine: one was left open, or lost. */
export const OtherSessions = () => {
  const [state, setState] = useState<'usual' | 'ending' | number>('usual')
  const [trouble, setTrouble] = useState('')
  const end = async () => {
    setState('ending')
    setTrouble('')
    try {
      setState((await call(signOutElsewhere)).ended)
    } catch (error) {
      setTrouble(problemWords(error))
      setState('usual')
    }
  }
  return (
    <section aria-label="Other machines" className="flex flex-col items-start gap-1.5">
      <h3 className="text-soft text-sm">Other machines</h3>
      {/* What came of it stands where the question stood: below the button it would be out of sight. */}
      <p role="status" className={typeof state === 'number' ? '' : 'text-soft'}>
        {typeof state !== 'number'
          ? 'If you are still signed in somewhere else, you can end that from here.'
          : state === 0
            ? 'You were signed in nowhere else.'
            : `Signed out: ${counted(state, 'other machine or browser', 'other machines or browsers')}.`}
      </p>
      <Button disabled={state === 'ending'} onClick={end}>
        {state === 'ending' ? 'Signing out…' : 'Sign out everywhere else'}
      </Button>
      {trouble && <Trouble>{trouble}</Trouble>}
    </section>
  )
}
