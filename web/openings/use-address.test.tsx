// @vitest-environment happy-dom
import { act, cleanup, render, screen } from '@testing-library/react'
import { BrowserRouter } from 'react-router'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Inside } from '../testing/screen.tsx'
import { useBrief, WithBrief } from './brief.tsx'
import { useBriefAddress } from './use-address.ts'

beforeEach(() => {
  vi.useFakeTimers()
  window.history.replaceState(null, '', 'http://localhost:3000/arrange')
})
afterEach(() => {
  cleanup()
  vi.useRealTimers()
})

const Arranging = () => {
  const { brief, change } = useBrief()
  useBriefAddress(() => undefined)
  return (
    <button type="button" onClick={() => change({ title: `${brief.title}!` })}>
      change
    </button>
  )
}
const open = () =>
  render(
    <Inside router={BrowserRouter}>
      <WithBrief>
        <Arranging />
      </WithBrief>
    </Inside>,
  )
const change = () => act(() => screen.getByRole('button', { name: 'change' }).click())
const rest = () => act(() => vi.advanceTimersByTime(1000))

it('the brief stands in the address once it has rested', () => {
  open()
  change()
  expect(window.location.search).toBe('')
  rest()
  expect(window.location.search).toMatch(/^\?brief=./)
})

it('nobody is called back who has left for another screen that is not drawn yet', () => {
  open()
  change()
  // As the router does at once, before the other screen is drawn.
  window.history.pushState(null, '', '/now?meeting=1')
  rest()
  expect([window.location.pathname, window.location.search]).toEqual(['/now', '?meeting=1'])
})
