// @vitest-environment happy-dom
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { problem, show } from '../testing/screen.tsx'
import { ApiProblem } from './problem.ts'
import { useUndo } from './undo.tsx'

const undone = vi.fn()

const Doing = ({ undo }: { undo?: (words: string) => Promise<void> }) => {
  const say = useUndo()
  return ['first', 'second'].map((words) => (
    <button
      key={words}
      type="button"
      onClick={() =>
        say({
          words: `Done: ${words}`,
          undo: async () => {
            await undo?.(words)
            undone(words)
          },
        })
      }
    >
      {words}
    </button>
  ))
}

const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }))
const ctrlZ = () => fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true })

describe('taking back', () => {
  it('goes back step by step, newest first, and then no further', async () => {
    undone.mockClear()
    show(<Doing />)
    press('first')
    press('second')
    expect(await screen.findByText('Done: second')).toBeTruthy()
    ctrlZ()
    await waitFor(() => expect(undone.mock.calls).toEqual([['second']]))
    ctrlZ()
    await waitFor(() => expect(undone.mock.calls).toEqual([['second'], ['first']]))
    ctrlZ()
    expect(await screen.findByText('Undone: Done: first')).toBeTruthy()
    expect(undone).toHaveBeenCalledTimes(2)
  })

  it('does one thing once, however often it is pressed', async () => {
    undone.mockClear()
    let letGo: () => void = () => undefined
    show(<Doing undo={() => new Promise((resolve) => (letGo = () => resolve()))} />)
    press('first')
    ctrlZ()
    ctrlZ()
    letGo()
    await waitFor(() => expect(undone).toHaveBeenCalledTimes(1))
  })

  it('says why where something cannot be taken back', async () => {
    const refused = await problem(409, 'changed-since', 'It was changed again since.').json()
    show(<Doing undo={() => Promise.reject(new ApiProblem(refused))} />)
    press('first')
    ctrlZ()
    expect(await screen.findByText('It could not be taken back. It was changed again since.')).toBeTruthy()
  })
})
