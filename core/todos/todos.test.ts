import { describe, expect, it } from 'vitest'
import { dayFromCivil, instantFromText, wallFromText, wallText, zoneTable } from '../time/index.ts'
import { type Given, todoNotices, todoRefusal } from './giving.ts'
import { isTodoLine, readTodoLine } from './line.ts'
import { type Due, dueInWords, inDueOrder, priorityOf, standingOf } from './todos.ts'

const vienna = zoneTable('Europe/Vienna')
const auckland = zoneTable('Pacific/Auckland')
const now = instantFromText('Europe/Vienna', '2026-11-23T09:12')
const day = (month: number, date: number, year = 2026) => dayFromCivil(year, month, date) ?? 0
const on = (month: number, date: number, year = 2026): Due => ({ day: day(month, date, year) })
const at = (text: string): Due => ({ wall: wallFromText(text) ?? 0, zone: vienna })

describe('a to-do in one line', () => {
  it.each([
    ['todo order saw blades fri', 'Order saw blades', day(11, 27), null, null, false],
    ['to do: call the workshop tomorrow 15:00 10m !', 'Call the workshop', day(11, 24), 900, 10, true],
    ['To-do write the permit by 3 dec for 1h30', 'Write the permit', day(12, 3), null, 90, false],
    ['todo ring Lodestar 8:00', 'Ring Lodestar', day(11, 24), 480, null, false],
    ['todo ring Lodestar 14:00', 'Ring Lodestar', day(11, 23), 840, null, false],
    ['todo sharpen the drill', 'Sharpen the drill', null, null, null, false],
  ])('%s', (text, title, due, minute, minutes, urgent) => {
    expect(isTodoLine(text)).toBe(true)
    expect(readTodoLine(text, now, vienna)).toEqual({ title, day: due, minute, minutes, urgent })
  })

  it('begins with "todo", and has a title', () => {
    expect(isTodoLine('Todorov visits fri')).toBe(false)
    expect(isTodoLine('Order saw blades')).toBe(false)
    expect(readTodoLine('todo fri 10:00', now, vienna)).toBeNull()
  })
})

describe('when a to-do is due', () => {
  it.each([
    [on(11, 23), 'today', 'today'],
    [at('2026-11-23T15:00'), 'today', 'today at 15:00'],
    [at('2026-11-23T09:00'), 'late', 'today at 09:00'],
    [on(11, 22), 'late', 'yesterday'],
    [on(11, 16), 'late', 'Mon 16 Nov, 7 days ago'],
    [on(11, 27), 'week', 'Fri 27 Nov'],
    [on(12, 4), 'later', 'Fri 4 Dec'],
    [on(1, 4, 2027), 'later', 'Monday 4 January 2027'],
  ])('%j is %s: %s', (due, standing, words) => {
    expect(standingOf(due, now, vienna)).toBe(standing)
    expect(dueInWords(due, now, vienna)).toBe(words)
  })

  it('is that day wherever one is, but a time is that of its zone', () => {
    // 21:12 in Dunedin: the day is not over there, and a time in Innsbruck is the next day's.
    expect(standingOf(on(11, 23), now, auckland)).toBe('today')
    expect(dueInWords(at('2026-11-23T15:00'), now, auckland)).toBe('tomorrow at 03:00')
  })

  it('orders them: the day as such after its times, the urgent first, no day last', () => {
    const one = (title: string, due: Due | null, priority = 0) => ({ title, due, priority })
    const sorted = [
      one('none', null),
      one('day', on(11, 24)),
      one('urgent', on(11, 24), 1),
      one('time', at('2026-11-24T10:00')),
    ].sort(inDueOrder(vienna))
    expect(sorted.map((each) => each.title)).toEqual(['time', 'urgent', 'day', 'none'])
    expect(sorted.map((each) => wallText(each.due && 'wall' in each.due ? each.due.wall : 0)).at(0)).toBe(
      '2026-11-24T10:00',
    )
  })

  it('is as urgent as RFC 5545 has it', () => {
    expect([0, 1, 4, 5, 6, 9].map(priorityOf)).toEqual(['usual', 'high', 'high', 'usual', 'low', 'low'])
  })
})

describe('a to-do that is given to a colleague', () => {
  const todo: Given = { ownerId: 'ilse', givenTo: 'matteo', done: false, due: 'fri' }
  const as = (more: Partial<Given>): Given => ({ ...todo, ...more })
  const wanted = (more = {}) => ({ ...todo, others: false, ...more })

  it.each([
    ['ilse', { others: true, givenTo: 'tashi' }, null],
    ['matteo', { done: true }, null],
    ['matteo', { givenTo: null }, null],
    ['matteo', { givenTo: 'tashi' }, 'give-back-only'],
    ['matteo', { others: true }, 'only-its-owner'],
    ['matteo', { due: 'sat' }, 'only-its-owner'],
    ['tashi', { done: true }, 'nobodys'],
  ])('%s with %j: %s', (who, change, expected) => {
    expect(todoRefusal(todo, wanted(change), who)).toBe(expected)
  })

  it.each([
    [null, as({}), 'ilse', [['matteo', 'todo-given']]],
    [as({ givenTo: null }), as({}), 'ilse', [['matteo', 'todo-given']]],
    [
      as({}),
      as({ givenTo: 'tashi' }),
      'ilse',
      [
        ['tashi', 'todo-given'],
        ['matteo', 'todo-taken'],
      ],
    ],
    [as({}), as({ givenTo: null }), 'matteo', [['ilse', 'todo-back']]],
    [as({}), as({ done: true }), 'matteo', [['ilse', 'todo-done']]],
    [as({}), as({ done: true }), 'ilse', []],
    [as({}), as({ due: 'sat' }), 'ilse', [['matteo', 'todo-due']]],
    [as({}), as({}), 'ilse', []],
  ] as const)('tells whom it concerns: %#', (before, after, actor, expected) => {
    expect(todoNotices(before, after, actor).map((one) => [one.personId, one.kind])).toEqual(expected)
  })
})
