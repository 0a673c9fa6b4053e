import { randomUUID } from 'node:crypto'
import type { Notice } from '@marmot/contract/notices'
import type { Todo } from '@marmot/contract/todo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let tashi: Client
let ids: Record<'ilse' | 'matteo' | 'tashi', string>
beforeAll(async () => {
  marmot = await startTestMarmot()
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  tashi = await marmot.as('Tashi Lhendup')
  ids = {
    ilse: await marmot.personId('Ilse Brandacher'),
    matteo: await marmot.personId('Matteo Ruprechter'),
    tashi: await marmot.personId('Tashi Lhendup'),
  }
})
afterAll(() => marmot.stop())

const aTodo = (more: Record<string, unknown> = {}) => ({
  title: 'Order saw blades',
  due: '2026-11-27T00:00',
  zone: 'Europe/Vienna',
  ...more,
})
const make = async (who: Client, more: Record<string, unknown> = {}): Promise<Todo> => {
  const made = await who.send<Todo>('POST', '/api/todos', aTodo(more))
  if (made.status !== 200) throw new Error(made.text)
  return made.body
}
const put = (who: Client, todo: Todo, more: Record<string, unknown> = {}) =>
  who.send<Todo>('PUT', `/api/todos/${todo.id}`, { ...todo, ...more })
const listed = async (who: Client, id: string, query = '') =>
  (await who.get<{ todos: Todo[] }>(`/api/todos${query}`)).body.todos.find((one) => one.id === id)
const told = async (who: Client, todo: Todo) =>
  (await who.get<{ notices: Notice[] }>('/api/now')).body.notices
    .filter((one) => one.todoId === todo.id)
    .map(({ kind, who: by, message, title }) => ({ kind, by, message, title }))

describe('a to-do', () => {
  it('is made once, however often it is asked for, changed by its version, and is its owner’s alone', async () => {
    const key = randomUUID()
    const body = aTodo({ title: 'Sharpen the drill', minutes: 45, priority: 1 })
    const first = await ilse.send<Todo>('POST', '/api/todos', body, { 'idempotency-key': key })
    const again = await ilse.send<Todo>('POST', '/api/todos', body, { 'idempotency-key': key })
    expect(again.body).toEqual(first.body)
    const todo = first.body
    expect(todo).toMatchObject({
      title: 'Sharpen the drill',
      due: '2026-11-27T00:00',
      minutes: 45,
      version: 1,
      times: [],
    })

    const changed = await put(ilse, todo, { percent: 40 })
    expect(changed.body).toMatchObject({ percent: 40, version: 2, doneAt: null })
    const stale = await put(ilse, todo, { title: 'Blunt the drill' })
    expect(stale.status).toBe(409)
    expect(problemOf(stale)).toMatchObject({
      code: 'stale',
      more: { newest: { percent: 40, version: 2, title: 'Sharpen the drill' } },
    })
    expect(await listed(matteo, todo.id)).toBeUndefined()
    expect((await put(matteo, changed.body, { done: true })).status).toBe(404)
    expect((await matteo.send('DELETE', `/api/todos/${todo.id}?version=2`)).status).toBe(404)
    expect((await matteo.send('POST', `/api/todos/${todo.id}/restore`)).status).toBe(404)
  })

  it('is done, with the time at which it was, and open again; long done, it is there when asked for', async () => {
    const todo = await make(ilse)
    const done = (await put(ilse, todo, { done: true })).body
    expect(done).toMatchObject({ done: true, percent: 100, doneAt: expect.stringMatching(/^2026-11-23T/) })
    // Said again, it was done when it was.
    expect((await put(ilse, done, { title: 'Order blades' })).body.doneAt).toBe(done.doneAt)
    await marmot.pool.query("update todo set done_at = done_at - interval '20 days' where id = $1", [todo.id])
    expect(await listed(ilse, todo.id)).toBeUndefined()
    const old = await listed(ilse, todo.id, '?done=all')
    expect(old?.done).toBe(true)
    if (!old) return
    expect((await put(ilse, old, { done: false, percent: 60 })).body).toMatchObject({
      done: false,
      doneAt: null,
      percent: 60,
    })
  })

  it('is deleted, and brought back as it was', async () => {
    const todo = await make(ilse, { note: '<p>Of <b>300 mm</b></p><script>x</script>' })
    expect(todo.note).toBe('<p>Of <b>300 mm</b></p>')
    expect((await ilse.send('DELETE', `/api/todos/${todo.id}?version=7`)).status).toBe(409)
    expect((await ilse.send('DELETE', `/api/todos/${todo.id}?version=1`)).status).toBe(200)
    expect(await listed(ilse, todo.id)).toBeUndefined()
    expect((await put(ilse, todo)).status).toBe(404)
    const back = await ilse.send<Todo>('POST', `/api/todos/${todo.id}/restore`)
    expect(back.body).toMatchObject({ title: 'Order saw blades', note: todo.note })
    expect((await ilse.send<Todo>('POST', `/api/todos/${todo.id}/restore`)).body.version).toBe(
      back.body.version,
    )
  })

  it.each([
    [{ title: '' }, 'title'],
    [{ title: '  ' }, 'title'],
    [{ due: '2026-02-30T00:00' }, 'due'],
    [{ minutes: 0 }, 'minutes'],
    [{ priority: 10 }, 'priority'],
    [{ percent: 101 }, 'percent'],
    [{ zone: 'Mars/Olympus' }, 'zone'],
    [{ givenTo: '99999999-9999-4999-8999-999999999999' }, 'givenTo'],
  ])('%j is refused, and the field named', async (more, field) => {
    const refused = await ilse.send('POST', '/api/todos', aTodo(more))
    expect(refused.status).toBe(422)
    expect(problemOf(refused).fields?.map((one) => one.path)).toEqual([field])
  })

  it('stands beside the days on which it is due, of whoever is to do it, until it is done', async () => {
    const beside = async (who: Client, of = '') => {
      const range = 'from=2027-02-01T00:00:00Z&to=2027-02-08T00:00:00Z'
      const { body } = await who.get<{ due: Todo[] }>(`/api/entries?${range}${of}`)
      return body.due.map((one) => one.title)
    }
    // A day ends later elsewhere, and begins earlier: it is told of a day to each side.
    await make(ilse, { title: 'Of a day', due: '2027-02-07T00:00' })
    await make(ilse, { title: 'On a clock', due: '2027-02-03T23:30', dueAllDay: false })
    await make(ilse, { title: 'A week later', due: '2027-02-14T00:00' })
    await make(ilse, { title: 'No day', due: null })
    const given = await make(ilse, { title: 'For Matteo', due: '2027-02-04T00:00', givenTo: ids.matteo })
    expect(await beside(ilse)).toEqual(['On a clock', 'Of a day'])
    expect(await beside(matteo)).toEqual(['For Matteo'])
    expect((await put(matteo, given, { done: true })).status).toBe(200)
    expect(await beside(matteo)).toEqual([])
    // A stand-in sees the entries of whom they stand in for; what is to be done is told to nobody else.
    const henrike = await marmot.personId('Henrike Aasland')
    expect(await beside(ilse, `&of=${henrike}`)).toEqual([])
    await make(await marmot.as('Henrike Aasland'), { title: 'Hers', due: '2027-02-05T00:00' })
    expect(await beside(ilse, `&of=${henrike}`)).toEqual([])
  })

  it('of a day begins at midnight, and one that was due long ago is taken', async () => {
    const todo = await make(ilse, { due: '2020-02-29T16:40' })
    expect(todo.due).toBe('2020-02-29T00:00')
    const timed = await make(ilse, { due: '2020-02-29T16:40', dueAllDay: false })
    expect(timed.due).toBe('2020-02-29T16:40')
  })
})

describe('a to-do that is given to a colleague', () => {
  const give = async (more: Record<string, unknown> = {}) => make(ilse, { givenTo: ids.matteo, ...more })

  it('is theirs to do: they are told, say how far it is, and give it back with a word', async () => {
    const todo = await give({ title: 'Fetch the blades' })
    expect(await told(matteo, todo)).toEqual([
      { kind: 'todo-given', by: 'Ilse Brandacher', message: '', title: 'Fetch the blades' },
    ])
    const theirs = await listed(matteo, todo.id)
    expect(theirs).toMatchObject({ owner: 'Ilse Brandacher', given: 'Matteo Ruprechter' })
    if (!theirs) return
    const half = (await put(matteo, theirs, { percent: 50 })).body
    const back = await put(matteo, half, { givenTo: null, words: 'I am in Nairobi all week' })
    expect(back.body).toMatchObject({ givenTo: null, percent: 50 })
    expect(await told(ilse, todo)).toEqual([
      {
        kind: 'todo-back',
        by: 'Matteo Ruprechter',
        message: 'I am in Nairobi all week',
        title: 'Fetch the blades',
      },
    ])
    expect(await listed(matteo, todo.id)).toBeUndefined()
    expect(await listed(ilse, todo.id)).toMatchObject({ givenTo: null, percent: 50 })
  })

  it('is done by them, and its owner is told; another day is told to them', async () => {
    const todo = await give()
    const later = (await put(ilse, todo, { due: '2026-11-30T00:00' })).body
    expect((await told(matteo, todo)).map((one) => one.kind)).toEqual(['todo-due', 'todo-given'])
    expect((await put(matteo, later, { done: true })).status).toBe(200)
    expect((await told(ilse, todo)).map((one) => one.kind)).toEqual(['todo-done'])
  })

  it('is not theirs to change, to delete, or to give on; who gives it to another tells both', async () => {
    const category = randomUUID()
    await ilse.send('PUT', `/api/categories/${category}`, { name: 'Workshop', tone: 2 })
    const todo = await give({ categoryId: category })
    expect(todo.categoryId).toBe(category)
    expect((await listed(matteo, todo.id))?.categoryId).toBeNull()
    for (const [more, code] of [
      [{ title: 'Order less' }, 'only-its-owner'],
      [{ due: '2026-12-24T00:00' }, 'only-its-owner'],
      [{ givenTo: ids.tashi }, 'give-back-only'],
    ] as const) {
      const refused = await put(matteo, todo, more)
      expect([refused.status, problemOf(refused).code]).toEqual([403, code])
    }
    expect((await matteo.send('DELETE', `/api/todos/${todo.id}?version=1`)).status).toBe(403)
    // What they say of it takes its owner's category from it no more than its words.
    const half = (await put(matteo, { ...todo, categoryId: null }, { percent: 50 })).body
    expect((await listed(ilse, todo.id))?.categoryId).toBe(category)
    await put(ilse, { ...half, categoryId: category }, { givenTo: ids.tashi })
    expect((await told(tashi, todo)).map((one) => one.kind)).toEqual(['todo-given'])
    expect((await told(matteo, todo)).map((one) => one.kind)).toEqual(['todo-taken', 'todo-given'])
    expect(await listed(matteo, todo.id)).toBeUndefined()
  })

  it('to oneself is one’s own', async () => {
    expect((await give({ givenTo: ids.ilse })).givenTo).toBeNull()
  })

  it('by two at the same moment is given once', async () => {
    const todo = await make(ilse)
    const both = await Promise.all([
      put(ilse, todo, { givenTo: ids.matteo }),
      put(ilse, todo, { givenTo: ids.tashi }),
    ])
    expect(both.map((one) => one.status).sort()).toEqual([200, 409])
    const notices = [...(await told(matteo, todo)), ...(await told(tashi, todo))]
    expect(notices).toHaveLength(1)
  })
})

describe('time set aside for a to-do', () => {
  const setAside = (who: Client, todoId: string, starts = '2026-12-16T06:00') =>
    who.send<{ entryId: string; version: number; recurrence: string; changeId: string }>(
      'POST',
      '/api/entries',
      { title: 'Order saw blades', starts, minutes: 45, zone: 'Europe/Vienna', todoId },
    )

  it('is an entry that stays tied to it, wherever it is moved, and comes back with undo', async () => {
    const todo = await make(ilse)
    const made = await setAside(ilse, todo.id)
    expect(made.status).toBe(200)
    expect((await listed(ilse, todo.id))?.times).toEqual([
      {
        entryId: made.body.entryId,
        recurrence: '2026-12-16T06:00',
        start: '2026-12-16T05:00:00.000Z',
        end: '2026-12-16T05:45:00.000Z',
      },
    ])
    const { entryId } = made.body
    await ilse.send('PUT', `/api/entries/${entryId}`, {
      title: 'Order saw blades',
      starts: '2026-12-16T07:00',
      minutes: 45,
      zone: 'Europe/Vienna',
      recurrence: '2026-12-16T06:00',
      version: 1,
    })
    expect((await listed(ilse, todo.id))?.times.map((one) => one.start)).toEqual(['2026-12-16T06:00:00.000Z'])
    const gone = await ilse.send<{ changeId: string }>(
      'DELETE',
      `/api/entries/${entryId}?recurrence=2026-12-16T07:00&version=2`,
    )
    expect((await listed(ilse, todo.id))?.times).toEqual([])
    await ilse.send('POST', `/api/changes/${gone.body.changeId}/undo`)
    expect((await listed(ilse, todo.id))?.times).toHaveLength(1)
  })

  it('is one’s own: whoever gave it does not see when, and nobody ties time to what is not theirs', async () => {
    const todo = await make(ilse, { givenTo: ids.matteo })
    expect((await setAside(matteo, todo.id)).status).toBe(200)
    expect((await listed(matteo, todo.id))?.times).toHaveLength(1)
    expect((await listed(ilse, todo.id))?.times).toEqual([])
    expect((await setAside(tashi, todo.id)).status).toBe(404)
  })
})

describe('a to-do is found', () => {
  it('by the beginnings of its words, by whoever has it, open ones first; by nobody else', async () => {
    const open = await make(ilse, { title: 'Whittle a tent peg', givenTo: ids.matteo })
    const done = await make(ilse, { title: 'Whittle a spoon', note: '<p>Of ash wood</p>', done: true })
    const found = async (who: Client, q: string) =>
      (await who.get<{ todos: Todo[] }>(`/api/search?q=${encodeURIComponent(q)}`)).body.todos.map(
        (one) => one.id,
      )
    expect(await found(ilse, 'whitt')).toEqual([open.id, done.id])
    expect(await found(ilse, 'ash whittle')).toEqual([done.id])
    expect(await found(matteo, 'whitt')).toEqual([open.id])
    expect(await found(tashi, 'whitt')).toEqual([])
    expect((await ilse.get<Todo>(`/api/todos/${done.id}`)).body.note).toBe('<p>Of ash wood</p>')
    expect((await tashi.get(`/api/todos/${open.id}`)).status).toBe(404)
  })
})
