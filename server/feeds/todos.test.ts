import type { ImportPreview } from '@marmot/contract/feeds'
import type { Todo } from '@marmot/contract/todo'
import { readCalendar } from '@marmot/core/feeds'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { type Client, problemOf, startTestMarmot, type TestMarmot } from '../testing/marmot.ts'

let marmot: TestMarmot
let wanjiru: Client
let declan: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  wanjiru = await marmot.as('Wanjiru Kamande')
  declan = await marmot.as('Declan Furey')
})
afterAll(() => marmot.stop())

const calendar = (...todos: string[][]) =>
  Buffer.from(
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      ...todos.flatMap((lines) => ['BEGIN:VTODO', ...lines, 'END:VTODO']),
      'END:VCALENDAR',
      '',
    ].join('\r\n'),
  )
const look = async (who: Client, bytes: Buffer): Promise<ImportPreview> => {
  const answer = await who.upload<ImportPreview>('/api/imports', bytes)
  if (answer.status !== 200) throw new Error(answer.text)
  return answer.body
}
const take = async (who: Client, { importId }: ImportPreview) => {
  const answer = await who.send('POST', `/api/imports/${importId}/take`)
  const last = answer.text.trim().split('\n').at(-1) ?? '{}'
  return JSON.parse(last) as { done: number; of: number; changeId?: string; trouble?: string }
}
const todosOf = async (who: Client, title: string) =>
  (await who.get<{ todos: Todo[] }>('/api/todos?done=all')).body.todos.filter((one) => one.title === title)

const BLADES = [
  'UID:blades@elsewhere.example',
  'SUMMARY:Order blades',
  'DUE;VALUE=DATE:20261127',
  'CATEGORIES:Workshop',
]

describe('to-dos in a calendar file', () => {
  it('are taken in once, however often, changed by a newer file, and taken back', async () => {
    const first = await look(wanjiru, calendar(BLADES, ['UID:wax', 'SUMMARY:Wax', 'STATUS:COMPLETED']))
    expect(first).toMatchObject({ made: 0, todos: { made: 2, changed: 0 }, same: 0, refusedCount: 0 })
    const taken = await take(wanjiru, first)
    expect(taken).toMatchObject({ done: 2, of: 2 })
    const [todo] = await todosOf(wanjiru, 'Order blades')
    expect(todo).toMatchObject({ due: '2026-11-27T00:00', dueAllDay: true, zone: 'Africa/Nairobi' })
    expect(todo?.categoryId).not.toBeNull()
    expect((await todosOf(wanjiru, 'Wax'))[0]?.done).toBe(true)

    const again = await look(wanjiru, calendar(BLADES))
    expect(again).toMatchObject({ todos: { made: 0, changed: 0 }, same: 1 })
    // Two may read the same file.
    expect((await look(declan, calendar(BLADES))).todos.made).toBe(1)

    const newer = await look(wanjiru, calendar([...BLADES, 'SEQUENCE:1', 'PERCENT-COMPLETE:50']))
    expect(newer.todos).toEqual({ made: 0, changed: 1 })
    const changed = await take(wanjiru, newer)
    expect((await todosOf(wanjiru, 'Order blades'))[0]?.percent).toBe(50)
    const older = await look(wanjiru, calendar(BLADES))
    expect(older.refused[0]?.reason).toBe('What is here already is newer.')

    await wanjiru.send('POST', `/api/changes/${changed.changeId}/undo`)
    expect((await todosOf(wanjiru, 'Order blades'))[0]?.percent).toBe(0)
    expect((await wanjiru.send('POST', `/api/changes/${taken.changeId}/undo`)).status).toBe(200)
    expect(await todosOf(wanjiru, 'Wax')).toEqual([])
    // What was changed since stays.
    expect(await todosOf(wanjiru, 'Order blades')).toHaveLength(1)
  })

  it('are brought back by undo only where the file was not taken again meanwhile', async () => {
    const file = calendar(['UID:again', 'SUMMARY:Once more'])
    await take(declan, await look(declan, file))
    const [todo] = await todosOf(declan, 'Once more')
    await declan.send('DELETE', `/api/todos/${todo?.id}?version=1`)
    await take(declan, await look(declan, file))
    const back = await declan.send('POST', `/api/todos/${todo?.id}/restore`)
    expect([back.status, problemOf(back).code]).toEqual([409, 'there-again'])
  })

  it('that are put back have no category where that is gone', async () => {
    await take(declan, await look(declan, calendar(['UID:sorted', 'SUMMARY:Sorted', 'CATEGORIES:Gone'])))
    const [first] = await todosOf(declan, 'Sorted')
    const newer = ['UID:sorted', 'SUMMARY:Sorted', 'SEQUENCE:1', 'PRIORITY:1']
    const { changeId } = await take(declan, await look(declan, calendar(newer)))
    await declan.send('DELETE', `/api/categories/${first?.categoryId}`)
    expect((await declan.send('POST', `/api/changes/${changeId}/undo`)).status).toBe(200)
    expect((await todosOf(declan, 'Sorted'))[0]).toMatchObject({ priority: 0, categoryId: null })
  })

  it('go out with all of one’s own, and coming back they change nothing', async () => {
    for (const more of [
      {
        title: 'Batteries, four; charged',
        due: '2026-12-01T09:30',
        dueAllDay: false,
        minutes: 30,
        priority: 2,
      },
      { title: 'Frame the photograph', note: '<p>Of <i>oak</i></p>' },
      { title: 'Long done', done: true },
    ])
      await declan.send('POST', '/api/todos', { zone: 'America/St_Johns', ...more })
    const whole = await declan.get('/api/export')
    const { todos } = readCalendar(whole.text, 'America/St_Johns')
    expect(todos.map((one) => one.title).sort()).toEqual(
      expect.arrayContaining(['Batteries, four; charged', 'Frame the photograph', 'Long done']),
    )
    expect(await look(declan, Buffer.from(whole.text))).toMatchObject({
      made: 0,
      changed: 0,
      removed: 0,
      todos: { made: 0, changed: 0 },
    })
    const part = await declan.get('/api/export?from=2026-11-23T00:00:00Z&to=2026-11-30T00:00:00Z')
    expect(part.text).not.toContain('VTODO')
  })
})
