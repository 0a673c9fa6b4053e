import { QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render } from '@testing-library/react'
import { type ReactNode, useState } from 'react'
import { type BrowserRouter, MemoryRouter } from 'react-router'
import { afterEach, vi } from 'vitest'
import { Messages } from '../app/messages.tsx'
import { WithKeys } from '../platform/keys.tsx'
import { queriesOf } from '../platform/queries.ts'
import { WithMe } from '../platform/session.tsx'
import { WithUndo } from '../platform/undo.tsx'
import { aSession, NOW } from './people.ts'

export { NOW }

const session = aSession()

afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

/** What stands around every part of the screen: Ilse, keys, undo, messages. */
export const Inside = ({
  router: Router = MemoryRouter,
  children,
}: {
  router?: typeof MemoryRouter | typeof BrowserRouter
  children: ReactNode
}) => {
  const [queries] = useState(() => queriesOf(() => false))
  return (
    <QueryClientProvider client={queries}>
      <Router>
        <WithMe session={session} ahead={NOW - Date.now()}>
          <WithKeys>
            <WithUndo>{children}</WithUndo>
          </WithKeys>
        </WithMe>
      </Router>
      <Messages />
    </QueryClientProvider>
  )
}

/** Shows a part of the screen as Ilse has it, with keys, undo and messages around it. */
export const show = (part: ReactNode) => render(part, { wrapper: Inside })

export interface Asked {
  readonly method: string
  readonly path: string
  readonly body: unknown
}

/** Answers requests by the first of these whose name they begin with (`POST /api/entries`), and keeps what was asked. */
export const serve = (answers: Record<string, (asked: Asked) => Response | Promise<Response>>): Asked[] => {
  const asked: Asked[] = []
  vi.stubGlobal('fetch', async (address: string, init: RequestInit = {}) => {
    const one = {
      method: init.method ?? 'GET',
      path: address,
      body: typeof init.body === 'string' ? JSON.parse(init.body) : undefined,
    }
    asked.push(one)
    const name = Object.keys(answers).find((each) => `${one.method} ${one.path}`.startsWith(each))
    const answer = name === undefined ? undefined : answers[name]
    return answer ? answer(one) : new Response('{}', { status: 404 })
  })
  return asked
}

export const json = (body: unknown, status = 200): Response => new Response(JSON.stringify(body), { status })

/** A problem as the server tells it (RFC 9457). */
export const problem = (status: number, code: string, detail: string): Response =>
  json({ type: `urn:marmot:problem:${code}`, title: code, status, code, detail }, status)
