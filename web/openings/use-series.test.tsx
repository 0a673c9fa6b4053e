// @vitest-environment happy-dom
import { type SearchBrief, USUAL_RULES } from '@marmot/core/openings'
import { act, renderHook } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'
import type { SeriesQuestion } from './series.worker.ts'
import { useSeries } from './use-series.ts'

const DAY = 86_400_000
const FROM = Date.UTC(2026, 11, 1)

const time = {
  zone: 'Europe/Vienna',
  known: true,
  hours: [1, 2, 3, 4, 5].map((weekday) => ({ weekday, from: 540, to: 1020 })),
  spans: [],
  outside: 'outside' as const,
}
const brief: SearchBrief = {
  people: [{ id: 'ilse', required: true, time }],
  minutes: 60,
  from: FROM,
  to: FROM + 14 * DAY,
  step: 30,
  zone: 'Europe/Vienna',
  now: FROM - DAY,
  rules: USUAL_RULES,
}
const RULE = { every: 1, unit: 'week' as const, count: 4 }

/** The worker as the page sees it, with the worker's own code behind it when it is asked to answer. */
class FakeWorker {
  static newest: FakeWorker
  readonly told: SeriesQuestion[] = []
  ended = false
  onmessage: ((event: { data: unknown }) => void) | null = null
  constructor() {
    FakeWorker.newest = this
  }
  postMessage(question: SeriesQuestion) {
    this.told.push(question)
  }
  terminate() {
    this.ended = true
  }
  async answer(question: SeriesQuestion | undefined) {
    const { answerSeries } = await import('./series.worker.ts')
    if (question) act(() => this.onmessage?.({ data: answerSeries(question) }))
  }
}
vi.stubGlobal('Worker', FakeWorker)
afterEach(() => vi.restoreAllMocks())

it('has no dates while it searches, gives those of what is asked now, and none of an older question', async () => {
  const shown = renderHook(({ rule }) => useSeries(brief, rule, null), { initialProps: { rule: RULE } })
  expect(shown.result.current).toEqual({ slots: [], refused: null, searching: true })
  const worker = FakeWorker.newest
  const [first] = worker.told
  shown.rerender({ rule: { ...RULE, count: 3 } })
  await worker.answer(first)
  expect(shown.result.current.searching).toBe(true)
  await worker.answer(worker.told[1])
  expect(shown.result.current.searching).toBe(false)
  expect(shown.result.current.slots[0]?.dates).toHaveLength(3)
  shown.unmount()
  expect(worker.ended).toBe(true)
})

it('puts the time that was chosen first, and says why there is none', async () => {
  const start = Date.UTC(2026, 11, 3, 9)
  const shown = renderHook(({ given }) => useSeries(given, RULE, start), { initialProps: { given: brief } })
  const worker = FakeWorker.newest
  await worker.answer(worker.told.at(-1))
  expect(shown.result.current.slots[0]?.dates[0]?.start).toBe(start)
  shown.rerender({ given: { ...brief, people: [] } })
  await worker.answer(worker.told.at(-1))
  expect(shown.result.current.refused).toMatch(/./)
})
