import { expect, it, vi } from 'vitest'
import { shownBy, toast } from './toast.ts'

/** Something that shows messages, and what it was given to show. */
const shower = () => {
  const said: string[] = []
  const one = (words: unknown) => said.push(String(words))
  const show = Object.assign(vi.fn(one), { error: vi.fn(one), success: vi.fn(one), warning: vi.fn(one) })
  return { said, show: show as unknown as Parameters<typeof shownBy>[0] }
}

it('what is said before messages can be shown waits for it, in its order, and is shown once', () => {
  toast('Your answer was sent')
  toast.error('It could not be taken back')
  const first = shower()
  const stop = shownBy(first.show)
  expect(first.said).toEqual(['Your answer was sent', 'It could not be taken back'])
  toast.warning('The hold ends soon')
  expect(first.said).toHaveLength(3)
  stop()
  toast.success('Kept')
  expect(first.said).toHaveLength(3)
  const second = shower()
  shownBy(second.show)()
  expect(second.said).toEqual(['Kept'])
})

it('where nothing ever shows them, only the latest wait', () => {
  for (let i = 1; i <= 100; i++) toast(`Message ${i}`)
  const { said, show } = shower()
  shownBy(show)()
  expect(said).toHaveLength(20)
  expect(said.at(-1)).toBe('Message 100')
})
