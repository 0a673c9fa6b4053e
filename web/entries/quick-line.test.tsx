// @vitest-environment happy-dom
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { useRef } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { json, problem, serve, show } from '../testing/screen.tsx'
import { QuickLine } from './quick-line.tsx'

const made = vi.fn()
const more = vi.fn()
beforeEach(() => {
  made.mockClear()
  more.mockClear()
})

const todos = {
  isOne: (text: string) => text.startsWith('todo '),
  read: (text: string) => (text === 'todo ' ? null : { title: 'Order blades', words: 'due Fri 27 Nov' }),
  make: vi.fn(async () => undefined),
}

const Line = () => {
  const input = useRef<HTMLInputElement>(null)
  return <QuickLine inputRef={input} of={undefined} todos={todos} onMore={more} onMade={made} />
}

const WRITTEN = {
  entryId: '11111111-1111-4111-8111-111111111111',
  recurrence: '2026-11-26T10:45',
  version: 1,
  changeId: '22222222-2222-4222-8222-222222222222',
  start: '2026-11-26T09:45:00.000Z',
  end: '2026-11-26T10:30:00.000Z',
  moved: false,
}

const field = () => screen.getByLabelText<HTMLInputElement>('Write an entry in one line')
const type = (text: string) => {
  field().focus()
  fireEvent.change(field(), { target: { value: text } })
}
const enter = () => {
  const form = field().closest('form')
  if (form) fireEvent.submit(form)
}

describe('an entry in one line', () => {
  it('is said back before it is made, with what was taken as usual', () => {
    show(<Line />)
    type('Core freezer defrost thu 10:45 45m at Firn')
    expect(screen.getByRole('status').textContent).toContain(
      'Core freezer defrost at FirnThursday 26 November, 10:45 to 11:30, in 3 days · 45 min',
    )
    type('thu 10:45')
    expect(screen.getByRole('status').textContent).toBe('Give it a title, too.')
  })

  it('is a to-do where it begins so', () => {
    const asked = serve({})
    show(<Line />)
    type('todo order blades fri')
    expect(screen.getByRole('status').textContent).toContain('To do: Order bladesdue Fri 27 Nov')
    enter()
    expect(todos.make).toHaveBeenCalledWith('todo order blades fri')
    expect(asked.filter((one) => one.method === 'POST')).toEqual([])
    expect(field().value).toBe('')
  })

  it('is made, and leaves the line free for the next before the server has answered', async () => {
    let answer: (response: Response) => void = () => undefined
    const asked = serve({ 'POST /api/entries': () => new Promise<Response>((resolve) => (answer = resolve)) })
    show(<Line />)
    type('Core freezer defrost thu 10:45 45m at Firn')
    enter()
    expect(field().value).toBe('')
    type('Tent airing sat 8:00')
    answer(json(WRITTEN))
    await waitFor(() => expect(made).toHaveBeenCalledWith(Date.parse(WRITTEN.start)))
    expect(field().value).toBe('Tent airing sat 8:00')
    expect(asked.map((one) => one.body)).toEqual([
      {
        title: 'Core freezer defrost',
        place: 'Firn',
        starts: '2026-11-26T10:45',
        minutes: 45,
        allDay: false,
        zone: 'Europe/Vienna',
        repetition: null,
      },
    ])
    expect(await screen.findByText('Core freezer defrost is added')).toBeTruthy()
  })

  it('comes back into the line when it could not be made', async () => {
    serve({ 'POST /api/entries': () => problem(409, 'busy', 'The calendar is being moved. Try again.') })
    show(<Line />)
    type('Rope check tue 13:00')
    enter()
    await waitFor(() => expect(field().value).toBe('Rope check tue 13:00'))
    expect(screen.getByRole('status').textContent).toContain('⚠ The calendar is being moved. Try again.')
    expect(document.activeElement).toBe(field())
    expect(made).not.toHaveBeenCalled()
  })

  it('that could not be made is told in a message while the next is typed', async () => {
    let answer: (response: Response) => void = () => undefined
    serve({ 'POST /api/entries': () => new Promise<Response>((resolve) => (answer = resolve)) })
    show(<Line />)
    type('Rope check tue 13:00')
    enter()
    type('Tent airing')
    answer(problem(409, 'busy', 'Try again.'))
    expect(await screen.findByText('Not made: Rope check tue 13:00. Try again.')).toBeTruthy()
    expect(field().value).toBe('Tent airing')
  })

  it('is taken over into the sheet by "More…", as far as it was understood', () => {
    show(<Line />)
    type('Rope check every tue 13:00 45m at store')
    fireEvent.click(screen.getByRole('button', { name: 'More…' }))
    expect(more).toHaveBeenCalledWith({
      start: Date.parse('2026-11-24T12:00:00Z'),
      end: Date.parse('2026-11-24T12:45:00Z'),
      date: null,
      said: { title: 'Rope check', place: 'store', allDay: false, rule: 'FREQ=WEEKLY;BYDAY=TU' },
    })
    expect(field().value).toBe('')
  })

  it('is let go by Escape', () => {
    show(<Line />)
    type('Rope check')
    fireEvent.keyDown(field(), { key: 'Escape' })
    expect(field().value).toBe('')
    expect(screen.queryByRole('status')).toBeNull()
  })
})
