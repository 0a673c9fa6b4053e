// @vitest-environment happy-dom
import { fireEvent, screen } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { show } from '../testing/screen.tsx'
import { type Key, useKeys } from './keys.tsx'

const Listening = ({ keys }: { keys: readonly Key[] }) => {
  useKeys(keys)
  return null
}
const key = (on: string, run: () => void, more: Partial<Key> = {}): Key => ({
  keys: on,
  does: `does ${on}`,
  on,
  run,
  ...more,
})
const press = (name: string, on: Element = document.body, more = {}) =>
  fireEvent.keyDown(on, { key: name, ...more })

describe('keys', () => {
  it('do what the screen says, with Ctrl only where that is meant', () => {
    const [plain, ctrl] = [vi.fn(), vi.fn()]
    show(<Listening keys={[key('n', plain), { ...key('k', ctrl), keys: 'Ctrl K', ctrl: true }]} />)
    press('n')
    press('k')
    expect([plain.mock.calls.length, ctrl.mock.calls.length]).toEqual([1, 0])
    press('k', document.body, { ctrlKey: true })
    press('n', document.body, { ctrlKey: true })
    press('n', document.body, { altKey: true })
    expect([plain.mock.calls.length, ctrl.mock.calls.length]).toEqual([1, 1])
  })

  it('are letters where one types, but for those that are none, and for ticks', () => {
    const [letter, jump] = [vi.fn(), vi.fn()]
    show(
      <>
        <Listening
          keys={[key('n', letter), { ...key('k', jump), keys: 'Ctrl K', ctrl: true, whileTyping: true }]}
        />
        <input aria-label="words" />
        <input type="checkbox" aria-label="tick" />
      </>,
    )
    press('n', screen.getByLabelText('words'))
    expect(letter).not.toHaveBeenCalled()
    press('k', screen.getByLabelText('words'), { ctrlKey: true })
    expect(jump).toHaveBeenCalledTimes(1)
    press('n', screen.getByLabelText('tick'))
    expect(letter).toHaveBeenCalledTimes(1)
  })

  it('belong to an open sheet while there is one', () => {
    const run = vi.fn()
    show(
      <>
        <Listening keys={[key('n', run)]} />
        <div role="dialog" />
      </>,
    )
    press('n')
    expect(run).not.toHaveBeenCalled()
  })

  it('of a screen come before those that hold everywhere, and go with it', () => {
    const [everywhere, here] = [vi.fn(), vi.fn()]
    const always = <Listening key="always" keys={[key('p', everywhere)]} />
    const shown = show([always, <Listening key="screen" keys={[key('p', here)]} />])
    press('p')
    expect([everywhere.mock.calls.length, here.mock.calls.length]).toEqual([0, 1])
    shown.rerender([always])
    press('p')
    expect([everywhere.mock.calls.length, here.mock.calls.length]).toEqual([1, 1])
  })

  it('run what the newest drawing of the screen means by them', () => {
    const [before, after] = [vi.fn(), vi.fn()]
    const shown = show(<Listening keys={[key('n', before)]} />)
    press('n')
    shown.rerender(<Listening keys={[key('n', after)]} />)
    press('n')
    expect([before.mock.calls.length, after.mock.calls.length]).toEqual([1, 1])
  })

  it('are listed by ?', async () => {
    show(<Listening keys={[key('n', vi.fn()), { keys: '← →', does: 'Move the chosen time' }]} />)
    press('?')
    const list = await screen.findByRole('dialog', { name: 'Keys of this screen' }, { timeout: 10_000 })
    expect(list.textContent).toContain('ndoes n')
    expect(list.textContent).toContain('← →Move the chosen time')
    expect(list.textContent).toContain('Ctrl ZTake back the last change')
  })
})
