// @vitest-environment happy-dom
import { act } from '@testing-library/react'
import { useEffect } from 'react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { json, serve, show } from '../testing/screen.tsx'
import { useTimesAsSeen } from './times.ts'

const FROM = Date.parse('2026-11-23T00:00:00Z')
const TO = FROM + 86_400_000
const id = (nth: number) => `00000000-0000-4000-8000-${String(nth).padStart(12, '0')}`

const timeOf = (personId: string) => ({
  personId,
  zone: 'Africa/Nairobi',
  sees: 'busy',
  does: 'look',
  hours: [],
  spans: [],
})

/** A list in which these are in sight. */
const List = ({ people }: { people: readonly string[] }) => {
  const { want, of } = useTimesAsSeen(FROM, TO)
  useEffect(() => want(people), [want, people])
  return <p>{people.map((one) => (of(one) ? 'known' : 'not yet')).join(', ')}</p>
}

const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms))

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
})
afterEach(() => {
  vi.useRealTimers()
})

const shown = async () => {
  const asked = serve({
    'POST /api/availability': ({ body }) =>
      json({ people: (body as { people: string[] }).people.map(timeOf), guests: [] }),
  })
  const { container, rerender } = show(<List people={[id(1)]} />)
  await pass(1)
  return {
    words: () => container.textContent,
    asked: () => asked.map(({ body }) => (body as { people: string[] }).people),
    look: (people: readonly string[]) => rerender(<List people={people} />),
  }
}

it('whom one looks for is asked about at once, also right after others', async () => {
  const { words, asked, look } = await shown()
  expect(words()).toBe('known')
  look([id(2), id(3)])
  await pass(1)
  expect(asked()).toEqual([[id(1)], [id(2), id(3)]])
  expect(words()).toBe('known, known')
})

it('whom one scrolls past is asked about when one has stopped, in one go', async () => {
  const { words, asked, look } = await shown()
  for (let nth = 2; nth < 6; nth++) {
    document.body.dispatchEvent(new Event('scroll', { bubbles: true }))
    look([id(nth)])
    await pass(100)
  }
  expect(asked()).toHaveLength(1)
  await pass(300)
  expect(asked()[1]).toEqual([id(2), id(3), id(4), id(5)])
  expect(words()).toBe('known')
})

it('nobody is asked about twice, and of very many a handful at a time', async () => {
  const { asked, look } = await shown()
  look(Array.from({ length: 30 }, (_, i) => id(i + 1)))
  await pass(1)
  expect(asked().map((people) => people.length)).toEqual([1, 20, 9])
  expect(new Set(asked().flat()).size).toBe(30)
})
