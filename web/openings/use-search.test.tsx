// @vitest-environment happy-dom
import { emptyBrief } from '@marmot/contract/briefs'
import { type Answer, type SearchBrief, USUAL_RULES } from '@marmot/core/openings'
import { act, renderHook, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { json, problem, serve } from '../testing/screen.tsx'
import type { Question } from './search.worker.ts'
import { useSearch } from './use-search.ts'

const ME = '10000000-0000-4000-8000-000000000001'
const answerWith = (starts: number): Answer => ({
  found: { openings: [], bands: [], unknown: [], starts, tried: 100 },
  why: null,
  days: [],
  help: [],
})

/** A search of so many people; each call another question. */
const searchOf = (people: number, minutes = 30) => {
  const ids = Array.from({ length: people }, (_, i) => `${ME.slice(0, -3)}${String(i + 1).padStart(3, '0')}`)
  const time = { zone: 'Europe/Vienna', known: true, hours: [], spans: [], outside: 'outside' as const }
  const brief: SearchBrief = {
    people: ids.map((id) => ({ id, required: true, time })),
    minutes,
    from: 0,
    to: 1,
    step: 15,
    zone: 'Europe/Vienna',
    now: 0,
    rules: USUAL_RULES,
  }
  const wire = {
    ...emptyBrief(20_790, ME),
    people: ids.map((id) => ({ id, required: true, group: null })),
    minutes,
  }
  return { brief, wire, organizerId: ME, knownTo: 1 }
}

/** The worker as the page sees it: what it was told, and what it says back. */
class FakeWorker {
  static newest: FakeWorker
  readonly told: (Question | { stop: true })[] = []
  ended = false
  onmessage: ((event: { data: unknown }) => void) | null = null
  constructor() {
    FakeWorker.newest = this
  }
  postMessage(message: Question | { stop: true }) {
    this.told.push(message)
  }
  terminate() {
    this.ended = true
  }
  say(data: unknown) {
    act(() => this.onmessage?.({ data }))
  }
  get questions(): Question[] {
    return this.told.filter((one) => 'id' in one)
  }
}
beforeEach(() => vi.stubGlobal('Worker', FakeWorker))
afterEach(() => vi.unstubAllGlobals())

const searching = (first: ReturnType<typeof searchOf> | null) => {
  const hook = renderHook(({ search }) => useSearch(search), { initialProps: { search: first } })
  return { state: () => hook.result.current, ask: (search: typeof first) => hook.rerender({ search }), hook }
}

describe('a search in the page', () => {
  it('shows what is found so far, then all of it', () => {
    const { state } = searching(searchOf(3))
    const id = FakeWorker.newest.questions[0]?.id
    expect(state()).toMatchObject({ share: 0, answer: null })
    FakeWorker.newest.say({ id, share: 0.2, answer: answerWith(2) })
    expect(state()).toMatchObject({ share: 0.2, answer: { found: { starts: 2 } } })
    FakeWorker.newest.say({ id, share: 1, answer: answerWith(5) })
    expect(state()).toMatchObject({ share: 1, answer: { found: { starts: 5 } } })
  })

  it('passes over what comes late for an earlier brief, and keeps the answer before until the next', () => {
    const { state, ask } = searching(searchOf(3))
    const worker = FakeWorker.newest
    worker.say({ id: worker.questions[0]?.id, share: 1, answer: answerWith(5) })
    ask(searchOf(3, 60))
    const [old, fresh] = worker.questions
    worker.say({ id: old?.id, share: 1, answer: answerWith(99) })
    expect(state()).toMatchObject({ share: 0, answer: { found: { starts: 5 } } })
    worker.say({ id: fresh?.id, share: 1, answer: answerWith(1) })
    expect(state()).toMatchObject({ share: 1, answer: { found: { starts: 1 } } })
  })

  it('is stopped, and asked again', () => {
    const { state } = searching(searchOf(3))
    const worker = FakeWorker.newest
    act(() => state().stop())
    expect(worker.told.at(-1)).toEqual({ stop: true })
    expect(state()).toMatchObject({ stopped: true, share: 1, answer: null })
    worker.say({ id: worker.questions[0]?.id, share: 0.5, answer: answerWith(7) })
    expect(state().answer).toBeNull()
    act(() => state().again())
    expect(worker.questions).toHaveLength(2)
    expect(state()).toMatchObject({ stopped: false, share: 0 })
  })

  it('says why a brief is refused, and is idle without one', () => {
    const { state, ask, hook } = searching(searchOf(3))
    const worker = FakeWorker.newest
    worker.say({
      id: worker.questions[0]?.id,
      refused: { code: 'no-window', detail: 'The window is empty.' },
    })
    expect(state()).toMatchObject({ refused: 'The window is empty.', answer: null, share: 1 })
    ask(null)
    expect(state()).toMatchObject({ refused: null, answer: null, share: 1 })
    hook.unmount()
    expect(worker.ended).toBe(true)
  })
})

describe('a search of many people', () => {
  const lines = (...all: unknown[]) =>
    new Response(all.map((one) => `${JSON.stringify(one)}\n`).join(''), { status: 200 })

  it('is made on the server, and told line by line', async () => {
    const asked = serve({
      'POST /api/openings': () =>
        lines({ share: 0.2, answer: answerWith(0) }, { share: 1, answer: answerWith(3) }),
    })
    const { state } = searching(searchOf(60))
    await waitFor(() => expect(state()).toMatchObject({ share: 1, answer: { found: { starts: 3 } } }))
    expect(FakeWorker.newest.questions).toEqual([])
    expect(asked.map((one) => one.path)).toEqual(['/api/openings'])
    expect(asked[0]?.body).toMatchObject({ brief: { minutes: 30 } })
  })

  it.each([
    ['is refused', () => lines({ refused: { code: 'no-window', detail: 'The window is empty.' } }), /window/],
    ['finds the server away', () => Promise.reject(new TypeError('failed')), /could not be made just now/],
    ['finds the server in trouble', () => problem(500, 'unforeseen', 'x'), /could not be made just now/],
    ['is told something else', () => json({ hello: 1 }), /could not be made just now/],
    ['breaks off', () => lines({ share: 0.2, answer: answerWith(4) }), /could not be made just now/],
  ])('that %s says so in words', async (_, answer, words) => {
    serve({ 'POST /api/openings': answer })
    const { state } = searching(searchOf(60))
    await waitFor(() => expect(state().refused).toMatch(words))
    expect(state().share).toBe(1)
  })
})
