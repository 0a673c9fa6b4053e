// @vitest-environment happy-dom
import type { Todo } from '@marmot/contract/todo'
import { zoneTable } from '@marmot/core/time'
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { useSearchParams } from 'react-router'
import { describe, expect, it } from 'vitest'
import { json, NOW, problem, serve, show } from '../testing/screen.tsx'
import { TodoSheet } from './todo-sheet.tsx'
import { dueOf, inSections } from './todos.ts'

const ME = '10000000-0000-4000-8000-000000000001'
const HENRIKE = '10000000-0000-4000-8000-000000000002'

const aTodo = (title: string, more: Partial<Todo> = {}): Todo => ({
  id: crypto.randomUUID(),
  ownerId: ME,
  owner: 'Ilse Brandacher',
  title,
  note: '',
  due: null,
  dueAllDay: true,
  zone: 'Europe/Vienna',
  minutes: null,
  categoryId: null,
  priority: 0,
  percent: 0,
  done: false,
  doneAt: null,
  givenTo: null,
  given: null,
  version: 1,
  times: [],
  ...more,
})

/** The server, with these to-dos; what is put is kept. */
const have = (...all: Todo[]) => {
  let todos = all
  return serve({
    'GET /api/todos/': ({ path }) => {
      const one = todos.find((each) => path.endsWith(each.id))
      return one ? json(one) : problem(404, 'not-found', 'There is no such to-do of yours.')
    },
    'GET /api/todos': () => json({ todos, more: false }),
    'GET /api/categories': () => json({ categories: [] }),
    'PUT /api/todos/': ({ path, body }) => {
      const id = path.slice(-36)
      const put = body as Partial<Todo>
      todos = todos.map((one) =>
        one.id === id
          ? {
              ...one,
              ...put,
              id,
              version: one.version + 1,
              doneAt: put.done ? new Date(NOW).toISOString() : null,
            }
          : one,
      )
      return json(todos.find((one) => one.id === id))
    },
    'POST /api/todos': ({ body }) => {
      const made = aTodo('', body as Partial<Todo>)
      todos = [...todos, made]
      return json(made)
    },
  })
}

const At = ({ which }: { which: string }) => {
  const [, set] = useSearchParams()
  return (
    <>
      <button type="button" onClick={() => set({ todo: which })}>
        open
      </button>
      <TodoSheet />
    </>
  )
}
const open = (which: string) => {
  show(<At which={which} />)
  fireEvent.click(screen.getByRole('button', { name: 'open' }))
}

describe('to-dos', () => {
  it('stand under when they are due, without headings for nothing', () => {
    const todos = [
      aTodo('Later', { due: '2026-12-24T00:00' }),
      aTodo('Some day'),
      aTodo('Noon', { due: '2026-11-23T12:00', dueAllDay: false }),
      aTodo('Friday', { due: '2026-11-20T00:00' }),
      aTodo('Done', { done: true }),
    ]
    const sections = inSections(todos, NOW, zoneTable('Europe/Vienna'))
    expect(sections.map((one) => [one.words, one.todos.map((each) => each.title)])).toEqual([
      ['Was due', ['Friday']],
      ['Today', ['Noon']],
      ['Later', ['Later']],
      ['No day', ['Some day']],
    ])
    expect(dueOf(aTodo('x'))).toBeNull()
  })

  it('are written at once, while those that are there are still on their way', async () => {
    serve({ 'GET /api/todos': () => new Promise(() => undefined) })
    open('list')
    const line = await screen.findByLabelText('Write a to-do in one line')
    await expect.poll(() => document.activeElement).toBe(line)
    expect(screen.getByText('Fetching your to-dos…')).toBeTruthy()
  })

  it('are added in one line, saying what was understood', async () => {
    const asked = have()
    open('list')
    expect(await screen.findByText(/^Nothing is to be done/)).toBeTruthy()
    fireEvent.change(screen.getByLabelText('Write a to-do in one line'), {
      target: { value: 'order saw blades fri 30m !' },
    })
    expect(screen.getByRole('status').textContent).toBe(
      'Order saw blades · due Fri 27 Nov · takes 30 min · urgent',
    )
    fireEvent.click(screen.getByRole('button', { name: 'Add' }))
    expect(await screen.findByRole('checkbox', { name: 'Done: Order saw blades' })).toBeTruthy()
    expect(asked.find((one) => one.method === 'POST')?.body).toMatchObject({
      title: 'Order saw blades',
      due: '2026-11-27T00:00',
      dueAllDay: true,
      minutes: 30,
      priority: 1,
    })
  })

  it('are done with one press, and open again by undo', async () => {
    const todo = aTodo('Order saw blades', { percent: 40 })
    const asked = have(todo)
    open('list')
    fireEvent.click(await screen.findByRole('checkbox', { name: 'Done: Order saw blades' }))
    expect(await screen.findByText('Order saw blades is done')).toBeTruthy()
    fireEvent.keyDown(document.body, { key: 'z', ctrlKey: true })
    await waitFor(() => expect(asked.filter((one) => one.method === 'PUT')).toHaveLength(2))
    expect(asked.filter((one) => one.method === 'PUT').map((one) => one.body)).toMatchObject([
      { done: true, version: 1 },
      { done: false, percent: 40, version: 2 },
    ])
  })

  it('of somebody else are not changed, but how far they are is said', async () => {
    const todo = aTodo('Figures for the board', {
      ownerId: HENRIKE,
      owner: 'Henrike Aasland',
      givenTo: ME,
      given: 'Ilse Brandacher',
    })
    have(todo)
    open(todo.id)
    expect(await screen.findByText(/from Henrike Aasland/)).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Change…' })).toBeNull()
    expect(screen.queryByRole('button', { name: 'Delete' })).toBeNull()
    expect(screen.getByRole('slider', { name: 'How far it is: 0 %' })).toBeTruthy()
    expect(screen.getByRole('button', { name: 'Give it back…' })).toBeTruthy()
  })

  it('that are gone say so', async () => {
    have()
    open(crypto.randomUUID())
    expect(await screen.findByText(/^This is not on your list any more/)).toBeTruthy()
  })

  it('that somebody changed meanwhile are shown, and nothing typed is lost', async () => {
    const todo = aTodo('Order saw blades', { due: '2026-11-27T00:00' })
    const newest = { ...todo, title: 'Order two saw blades', version: 2 }
    const asked = have(todo)
    open(todo.id)
    fireEvent.click(await screen.findByRole('button', { name: 'Change…' }))
    serve({
      'PUT /api/todos/': () =>
        json(
          {
            type: 'urn:marmot:problem:stale',
            title: 'stale',
            status: 409,
            code: 'stale',
            detail: 'Changed.',
            more: { newest },
          },
          409,
        ),
    })
    fireEvent.change(screen.getByLabelText('Due'), { target: { value: 'thirty' } })
    expect(screen.getByText('⚠ not a date: try 3 dec or next tue')).toBeTruthy()
    fireEvent.change(screen.getByLabelText('Due'), { target: { value: '30 nov' } })
    fireEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(await screen.findByText(/It was changed meanwhile: “Order two saw blades”/)).toBeTruthy()
    expect(screen.getByLabelText<HTMLInputElement>('Due').value).toBe('30 nov')
    expect(asked.filter((one) => one.method === 'PUT')).toEqual([])
  })
})
