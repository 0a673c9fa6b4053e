import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { dropAll, dropAnswer, keepAnswer, readWaiting, sendWaiting } from './outbox.ts'
import type { Waiting } from './waiting.ts'

const ME = 'me'
const given = (title: string, more: Partial<Waiting> = {}): Waiting => ({
  id: crypto.randomUUID(),
  personId: ME,
  entryId: `of ${title}`,
  recurrence: null,
  title,
  answer: 'accepted',
  message: '',
  quiet: false,
  given: '2026-11-23T08:00:00.000Z',
  version: 3,
  refused: null,
  ...more,
})

/** A server that answers each request in turn: a status, or none at all. */
const server = (...statuses: (number | 'away')[]) => {
  const bodies: unknown[] = []
  vi.stubGlobal('fetch', async (_: string, init: RequestInit) => {
    const status = statuses.shift() ?? 200
    if (status === 'away') throw new TypeError('Failed to fetch')
    bodies.push(JSON.parse(String(init.body)))
    const problem = {
      status,
      code: 'moved-meanwhile',
      detail: 'Moved.',
      more: { start: 'later', end: 'then' },
    }
    return new Response(JSON.stringify(status === 200 ? { answer: 'accepted' } : problem), { status })
  })
  return bodies
}
const titles = (list: readonly Waiting[]) => list.map((one) => one.title)

beforeEach(async () => {
  for (const one of await readWaiting(ME)) await dropAnswer(one)
})

describe('answers that wait for a connection', () => {
  it('go out in the order in which they were given, each once, and say when that was', async () => {
    await keepAnswer(given('Snow pit', { given: '2026-11-23T09:00:00.000Z' }))
    await keepAnswer(given('Rope inspection'))
    const bodies = server()
    const { sent } = await sendWaiting(ME)
    expect(titles(sent)).toEqual(['Rope inspection', 'Snow pit'])
    expect(bodies[0]).toMatchObject({ late: { given: '2026-11-23T08:00:00.000Z', version: 3 } })
    expect(titles((await sendWaiting(ME)).sent)).toEqual([])
    expect(bodies).toHaveLength(2)
  })

  it('give way to what was answered to the same dates later', async () => {
    await keepAnswer(given('Snow pit'))
    await keepAnswer(given('Snow pit', { answer: 'declined' }))
    const later = '2026-11-23T10:00:00.000Z'
    await keepAnswer(given('Snow pit', { recurrence: '2026-12-03T14:00', given: later }))
    expect((await readWaiting(ME)).map((one) => one.answer)).toEqual(['declined', 'accepted'])
  })

  it.each([
    ['nobody is reached', 'away'],
    ['the server has trouble', 503],
    ['one has to sign in first', 401],
    ['it was too much at once', 429],
  ] as const)('stay while %s', async (_, status) => {
    await keepAnswer(given('Snow pit'))
    server(status)
    expect(await sendWaiting(ME)).toEqual({ sent: [], refused: [] })
    server()
    expect(titles((await sendWaiting(ME)).sent)).toEqual(['Snow pit'])
  })

  it('are kept with the reason where something else became of it, and not sent again', async () => {
    await keepAnswer(given('Snow pit'))
    const bodies = server(409)
    expect(titles((await sendWaiting(ME)).refused)).toEqual(['Snow pit'])
    await sendWaiting(ME)
    expect(bodies).toHaveLength(1)
    const [kept] = await readWaiting(ME)
    expect(kept?.refused).toEqual({ words: 'Moved.', start: 'later', end: 'then' })
  })

  it('go when whoever gave them leaves, and no others', async () => {
    await keepAnswer(given('Snow pit'))
    await keepAnswer(given('Rope inspection', { personId: 'somebody else' }))
    await dropAll(ME)
    expect([await readWaiting(ME), titles(await readWaiting('somebody else'))]).toEqual([
      [],
      ['Rope inspection'],
    ])
    await dropAll('somebody else')
  })

  it('are nobody else’s', async () => {
    await keepAnswer(given('Snow pit', { personId: 'somebody else' }))
    const bodies = server()
    await sendWaiting(ME)
    expect([await readWaiting(ME), bodies]).toEqual([[], []])
  })
})
