// @vitest-environment happy-dom
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { json, NOW, problem, serve, show } from '../testing/screen.tsx'
import { Reminders } from './reminders.tsx'

const MINUTE = 60_000
const ID = '30000000-0000-4000-8000-000000000001'
const reminder = (minutes: number, more = {}) => ({
  id: ID,
  entryId: '40000000-0000-4000-8000-000000000001',
  recurrence: '2026-11-23T09:22',
  title: 'Warm the saw',
  place: 'Cold lab',
  meeting: false,
  start: new Date(NOW + minutes * MINUTE).toISOString(),
  end: new Date(NOW + (minutes + 30) * MINUTE).toISOString(),
  ...more,
})

/** Reminders as the server has them, until they are put away. */
const remind = (...all: ReturnType<typeof reminder>[]) => {
  let standing = all
  return serve({
    'GET /api/reminders': () => json({ reminders: standing }),
    'POST /api/reminders/': ({ path }) => {
      standing = standing.filter((one) => !path.includes(one.id))
      return json({})
    },
  })
}

describe('reminders', () => {
  it('are not there while there are none', async () => {
    const asked = remind()
    show(<Reminders />)
    await waitFor(() => expect(asked).toHaveLength(1))
    expect(screen.queryByRole('region', { name: 'Reminders' })).toBeNull()
  })

  it.each([
    [10, 'Warm the saw in 10 min'],
    [0, 'Warm the saw now'],
    [-5, 'Warm the saw since 5 min'],
  ])('say how far off it is: %d minutes', async (minutes, words) => {
    remind(reminder(minutes))
    show(<Reminders />)
    expect((await screen.findByRole('region', { name: 'Reminders' })).textContent).toContain(words)
  })

  it('are put off by so many minutes, and put away', async () => {
    const asked = remind(reminder(10), reminder(12, { id: ID.replace(/1$/, '2'), title: 'Fetch the cores' }))
    show(<Reminders />)
    const [first] = await screen.findAllByRole('button', { name: '15 min later' })
    if (first) fireEvent.click(first)
    await waitFor(() => expect(screen.queryByText('Warm the saw')).toBeNull())
    fireEvent.click(screen.getByRole('button', { name: 'Done' }))
    await waitFor(() => expect(screen.queryByRole('region', { name: 'Reminders' })).toBeNull())
    expect(asked.filter((one) => one.method === 'POST')).toEqual([
      { method: 'POST', path: `/api/reminders/${ID}/snooze`, body: { minutes: 15 } },
      { method: 'POST', path: `/api/reminders/${ID.replace(/1$/, '2')}/dismiss`, body: undefined },
    ])
  })

  it('stay, with a word, when they cannot be put away', async () => {
    serve({
      'GET /api/reminders': () => json({ reminders: [reminder(10)] }),
      'POST /api/reminders/': () => problem(404, 'not-found', 'There is no such reminder of yours.'),
    })
    show(<Reminders />)
    fireEvent.click(await screen.findByRole('button', { name: 'Done' }))
    expect(await screen.findByText('There is no such reminder of yours.')).toBeTruthy()
    expect(screen.getByText('Warm the saw')).toBeTruthy()
  })

  it('are said by the browser, too, where it may, each once', async () => {
    const said: string[] = []
    vi.stubGlobal(
      'Notification',
      Object.assign(
        class {
          constructor(title: string, options: { body: string }) {
            said.push(`${title}: ${options.body}`)
          }
        },
        { permission: 'granted' },
      ),
    )
    remind(reminder(10))
    const shown = show(<Reminders />)
    await screen.findByText('Warm the saw')
    shown.rerender(<Reminders />)
    expect(said).toEqual(['Warm the saw: in 10 min, Cold lab'])
  })
})
