import nodeIcal from 'node-ical'
import { describe, expect, it } from 'vitest'
import { instantFromText, wallFromText } from '../time/index.ts'
import { readCalendar } from './read.ts'
import { type CalendarTodo, sameTodo } from './todo.ts'
import { writeCalendar } from './write.ts'

const wall = (text: string) => wallFromText(text) ?? 0
const STAMP = instantFromText('UTC', '2026-11-23T08:00')

const aTodo = (more: Partial<CalendarTodo> = {}): CalendarTodo => ({
  uid: 'saw-blades@corrie.example',
  title: 'Order saw blades; two, of 300 mm',
  note: '<p>From <b>Lodestar</b></p>',
  due: wall('2026-11-27T15:00'),
  dueAllDay: false,
  zone: 'Europe/Vienna',
  minutes: 45,
  priority: 1,
  percent: 40,
  done: false,
  doneAt: null,
  category: 'Workshop',
  sequence: 0,
  stamp: STAMP,
  ...more,
})

const file = (...lines: string[]) =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VTODO',
    'UID:t1',
    ...lines,
    'END:VTODO',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
const read = (...lines: string[]) => {
  const { todos, refused } = readCalendar(file(...lines), 'Europe/Vienna')
  return { todo: todos[0], refused: refused.map((one) => one.reason) }
}

describe('a to-do in a calendar', () => {
  it.each([
    ['at a time', {}],
    ['on a day', { due: wall('2026-11-27T00:00'), dueAllDay: true, minutes: null, percent: 0, priority: 0 }],
    ['on no day', { due: null, dueAllDay: true, note: '', category: null }],
    ['done', { done: true, percent: 100, doneAt: instantFromText('UTC', '2026-11-25T10:00') }],
  ])('goes out and comes back the same: %s', (_, more) => {
    const todo = aTodo(more)
    const text = writeCalendar([], 'x', STAMP, [todo])
    const { todos, refused } = readCalendar(text, 'Europe/Vienna')
    expect(refused).toEqual([])
    expect(todos[0] && sameTodo(todos[0], todo)).toBe(true)
  })

  it('is read by another library', () => {
    const text = writeCalendar([], 'x', STAMP, [aTodo()])
    const [, found] =
      Object.entries(nodeIcal.sync.parseICS(text)).find(([, one]) => one?.type === 'VTODO') ?? []
    expect(found).toMatchObject({
      summary: 'Order saw blades; two, of 300 mm',
      description: 'From Lodestar',
      status: 'IN-PROCESS',
      priority: '1',
      completion: '40',
    })
    const due = (found as { due?: Date } | undefined)?.due
    expect(due && new Date(due).toISOString()).toBe('2026-11-27T14:00:00.000Z')
  })

  it('is due as long after its beginning as it takes, where it says no more', () => {
    expect(
      read('SUMMARY:x', 'DTSTART;TZID=Europe/Vienna:20261127T140000', 'DURATION:PT1H').todo,
    ).toMatchObject({ due: wall('2026-11-27T15:00'), dueAllDay: false, zone: 'Europe/Vienna' })
    expect(read('SUMMARY:x', 'DTSTART:20261127T140000Z').todo).toMatchObject({ due: null })
  })

  it('was done at no time that nobody can mean', () => {
    expect(read('SUMMARY:x', 'COMPLETED:10000101T000000Z').todo).toMatchObject({ done: true, doneAt: null })
  })

  it.each([
    [
      ['SUMMARY:x', 'DUE;VALUE=DATE:20261127', 'RRULE:FREQ=WEEKLY'],
      'It repeats: only the one that is written was taken.',
    ],
    [
      ['SUMMARY:x', 'DTSTART:20261128T100000Z', 'DUE:20261127T100000Z'],
      'It is due before it begins: only when it is due was taken.',
    ],
  ])('says what of it was not taken: %j', (lines, reason) => {
    const { todo, refused } = read(...lines)
    expect(todo?.due).not.toBeNull()
    expect(refused).toEqual([reason])
  })

  it.each([
    [['SUMMARY:x', 'DUE:20260231T100000Z'], 'One of its times is on no calendar.'],
    [['SUMMARY:x', 'STATUS:CANCELLED'], 'It was called off.'],
    [['SUMMARY:x', 'DUE:00010101T000000Z'], 'It is due in a year that cannot be meant.'],
    [['SUMMARY:x', 'DUE;TZID=Nowhere/Land:20261127T100000'], /time zone "Nowhere\/Land" is not known/],
  ])('is refused with a clear word: %j', (lines, reason) => {
    const { todo, refused } = read(...lines)
    expect(todo).toBeUndefined()
    expect(refused).toHaveLength(1)
    expect(refused[0]).toMatch(reason)
  })

  it('counts by its newest version, without a title is called so, and makes no time unknown', () => {
    const text = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      ...[1, 2, 0].flatMap((sequence) => [
        'BEGIN:VTODO',
        'UID:t1',
        `SEQUENCE:${sequence}`,
        `PRIORITY:${sequence}`,
        'END:VTODO',
      ]),
      'BEGIN:VTODO',
      'END:VTODO',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    const { todos, refused } = readCalendar(text, 'Europe/Vienna')
    expect(todos.map((one) => [one.priority, one.title])).toEqual([[2, '(no title)']])
    expect(refused.map((one) => [one.reason, one.unknown])).toEqual([
      ['A newer one with the same UID is in the file.', null],
      ['A newer one with the same UID is in the file.', null],
      ['It has no UID.', null],
    ])
  })
})
