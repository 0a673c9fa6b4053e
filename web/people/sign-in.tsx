import { signIn, signInChoices } from '@marmot/contract/people'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { sessionKey } from '../platform/session.tsx'
import { Button, Field, Trouble } from '../ui/parts.tsx'

const choicesKey = () => ['choices']

/** Sign-in by address and password; in the demo, the people to sign in as. */
export const SignIn = () => {
  const queries = useQueryClient()
  const choices = useQuery({ queryKey: choicesKey(), queryFn: () => call(signInChoices) })
  const [address, setAddress] = useState('')
  const [password, setPassword] = useState('')
  const [trouble, setTrouble] = useState<string | null>(null)
  const [busy, setBusy] = useState<string | null>(null)

  const enter = async (given: { address: string; password: string }) => {
    setBusy(given.address)
    setTrouble(null)
    try {
      await call(signIn, { body: given })
      await queries.invalidateQueries({ queryKey: sessionKey })
    } catch (error) {
      setTrouble(problemWords(error))
    } finally {
      setBusy(null)
    }
  }
  const submit = (event: FormEvent) => {
    event.preventDefault()
    enter({ address, password })
  }
  const demo = choices.data?.password ?? null
  return (
    <main className="mx-auto grid min-h-full max-w-4xl content-center gap-x-14 gap-y-8 p-6 md:grid-cols-[1fr_1.15fr]">
      <section>
        <img src="/mark.svg" alt="" width={76} height={76} />
        <h1 className="mt-2 font-bold text-3xl">Marmot</h1>
        <p className="mt-1 text-balance text-lg text-soft">
          Find the hour that suits everyone, with the room and the answers to go with it.
        </p>
        <form className="mt-6 flex flex-col gap-3" onSubmit={submit}>
          <Field label="Address">
            {(props) => (
              <input
                {...props}
                type="email"
                required
                autoComplete="username"
                value={address}
                onChange={(event) => setAddress(event.target.value)}
              />
            )}
          </Field>
          <Field label="Password">
            {(props) => (
              <input
                {...props}
                type="password"
                required
                autoComplete="current-password"
                value={password}
                onChange={(event) => setPassword(event.target.value)}
              />
            )}
          </Field>
          {trouble && <Trouble>{trouble}</Trouble>}
          <Button type="submit" tone="primary" disabled={busy !== null}>
            {busy ? 'Signing in…' : 'Sign in'}
          </Button>
        </form>
      </section>
      {demo && (
        <section aria-labelledby="demo">
          <h2 id="demo" className="font-semibold text-lg">
            This is the demo: sign in as
          </h2>
          <ul className="mt-3 flex flex-col gap-1">
            {choices.data?.people.map((person) => (
              <li key={person.address}>
                <button
                  type="button"
                  disabled={busy !== null}
                  onClick={() => enter({ address: person.address, password: demo })}
                  className="grid w-full grid-cols-[1fr_auto] items-baseline gap-x-3 rounded-md bg-paper px-3.5 py-1.5 text-left hover:bg-shade disabled:opacity-60"
                >
                  <span>
                    <b>{person.name}</b> <span className="text-soft">{person.role}</span>
                  </span>
                  <span className="text-soft text-sm">
                    {busy === person.address ? 'signing in…' : person.site}
                  </span>
                </button>
              </li>
            ))}
          </ul>
          <p className="mt-3 text-sm text-soft">
            Everybody’s password is <code className="rounded bg-shade px-1">{demo}</code>. The institute and
            all its people are made up.
          </p>
        </section>
      )}
    </main>
  )
}
