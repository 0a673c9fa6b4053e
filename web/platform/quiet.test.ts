// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { whenQuiet } from './quiet.ts'

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
})
afterEach(() => {
  vi.useRealTimers()
})

const press = () => document.body.dispatchEvent(new Event('pointerdown', { bubbles: true }))

it('waits until nobody has pressed for a while, and is called once', () => {
  const run = vi.fn()
  whenQuiet(run)
  vi.advanceTimersByTime(1400)
  press()
  vi.advanceTimersByTime(1400)
  expect(run).not.toHaveBeenCalled()
  vi.advanceTimersByTime(100)
  expect(run).toHaveBeenCalledOnce()
  press()
  vi.advanceTimersByTime(60_000)
  expect(run).toHaveBeenCalledOnce()
})

it('does not wait for ever for somebody who never rests', () => {
  const run = vi.fn()
  whenQuiet(run)
  for (let second = 0; second < 29; second++) {
    press()
    vi.advanceTimersByTime(1000)
  }
  expect(run).not.toHaveBeenCalled()
  press()
  vi.advanceTimersByTime(1000)
  expect(run).toHaveBeenCalledOnce()
})

it('is not called when it was called off', () => {
  const run = vi.fn()
  whenQuiet(run)()
  press()
  vi.advanceTimersByTime(60_000)
  expect(run).not.toHaveBeenCalled()
})
