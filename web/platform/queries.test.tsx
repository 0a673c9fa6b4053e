// @vitest-environment happy-dom
import { listEntries } from '@marmot/contract/entries'
import { useQuery } from '@tanstack/react-query'
import { fireEvent, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { json, problem, serve, show } from '../testing/screen.tsx'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { call } from './api.ts'
import { problemWords } from './problem.ts'
import { useAsOf } from './seen.ts'

const Count = () => {
  const entries = useQuery({
    queryKey: ['entries'],
    queryFn: () => call(listEntries, { query: { from: '2026-11-23T00:00:00Z', to: '2026-11-24T00:00:00Z' } }),
  })
  const asOf = useAsOf()
  if (entries.isPending) return <Loading what="your time" />
  if (entries.isError) return <Trouble>{problemWords(entries.error)}</Trouble>
  return (
    <>
      <p>
        {entries.data.occurrences.length} entries{asOf === null ? '' : ', from before'}
      </p>
      <Button onClick={() => entries.refetch()}>Ask anew</Button>
    </>
  )
}

const asked = async (...answers: (() => Response)[]) => {
  let next = 0
  serve({
    'GET /api/entries': () => {
      const answer = answers[Math.min(next++, answers.length - 1)]
      if (!answer) throw new Error('there is no answer to give')
      return answer()
    },
  })
  show(<Count />)
  fireEvent.click(await screen.findByText('Ask anew'))
}

const none = () => json({ occurrences: [], gaps: [], hours: [], mayChange: true })
const away = () => {
  throw new TypeError('Failed to fetch')
}

describe('what is on the screen', () => {
  it.each([
    ['the network is gone', away],
    ['the server is busy', () => problem(503, 'busy', 'Marmot is busy.')],
  ])('stays where it is asked for anew and %s, and says that it is from before', async (_, answer) => {
    await asked(none, answer, none)
    expect(await screen.findByText('0 entries, from before')).toBeTruthy()
    fireEvent.click(screen.getByText('Ask anew'))
    expect(await screen.findByText('0 entries')).toBeTruthy()
  })

  it.each([
    ['refuses it', 403, 'forbidden'],
    ['cannot work it out', 500, 'unforeseen'],
  ])('gives way where the server %s', async (_, status, code) => {
    await asked(none, () => problem(status, code, 'This cannot be shown any more.'))
    expect(await screen.findByText(/cannot be shown any more/)).toBeTruthy()
    expect(screen.queryByText(/entries/)).toBeNull()
  })
})
