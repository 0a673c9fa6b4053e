import type { Category, OccurrenceOnWire } from '@marmot/contract/entries'
import type { DueTodo } from '@marmot/contract/todo'
import { clockText, dayOf, minuteOf, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { lateFrom } from '@marmot/core/todos'
import { useCallback, useMemo } from 'react'
import { useSearchParams } from 'react-router'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { InvitationTable } from '../meetings/invitation-table.tsx'
import { ANSWER_WORDS } from '../meetings/said.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { FoundList } from '../search/found-list.tsx'
import { TodoTable } from '../todos/todo-table.tsx'
import { dueOf } from '../todos/todos.ts'
import { LinkSwitch } from '../ui/link-switch.tsx'
import { Empty, flower } from '../ui/parts.tsx'

/** A date of an entry, or a to-do that is due. */
type Listed = { readonly one: OccurrenceOnWire } | { readonly todo: DueTodo }

const columnsFor = (
  zone: ZoneTable,
  today: number,
  categories: readonly Category[],
  onOpen: (one: OccurrenceOnWire) => void,
  onTodo: (todo: DueTodo) => void,
): ListColumn<Listed>[] => {
  const wall = (at: string) => toWall(zone, Date.parse(at))
  const clock = (at: string) => clockText(minuteOf(wall(at)))
  /** When it is, or is due; a to-do of a day stands at its end. */
  const at = (row: Listed): number => {
    if ('one' in row) return Date.parse(row.one.start)
    const due = dueOf(row.todo)
    return due ? lateFrom(due, zone) - 1 : 0
  }
  const dayWords = (row: Listed) => shortDay(dayOf(toWall(zone, at(row))))
  const categoryOf = (row: Listed) =>
    categories.find((each) => each.id === ('one' in row ? row.one : row.todo).categoryId)
  const kindOf = (row: Listed) =>
    'todo' in row ? 'to do' : row.one.meeting ? (row.one.own ? 'meeting, mine' : 'meeting') : 'entry'
  const answerOf = (row: Listed): string =>
    'one' in row && row.one.meeting && !row.one.own ? ANSWER_WORDS[row.one.answer] : ''
  const titleOf = (row: Listed) =>
    'todo' in row ? row.todo.title : row.one.hidden ? 'private' : row.one.title || '(no title)'
  return [
    {
      id: 'start',
      head: 'Day',
      value: at,
      words: dayWords,
      cell: (row) => {
        const day = dayOf(toWall(zone, at(row)))
        return day === today ? <b className="font-bold text-ink">Today, {shortDay(day)}</b> : dayWords(row)
      },
      csv: (row) => ('one' in row ? row.one.start : (row.todo.due ?? '')),
      group: dayWords,
    },
    {
      id: 'time',
      head: 'Time',
      value: (row) =>
        'one' in row
          ? row.one.allDay
            ? ''
            : `${clock(row.one.start)}–${clock(row.one.end)}`
          : row.todo.dueAllDay
            ? 'due'
            : `due ${clock(new Date(at(row) + 1).toISOString())}`,
      cell: (row) => ('one' in row && row.one.allDay ? 'all day' : undefined),
      csv: (row) => ('one' in row ? row.one.end : ''),
    },
    {
      id: 'title',
      head: 'Title',
      value: titleOf,
      cell: (row) => (
        <button
          type="button"
          disabled={'one' in row && row.one.hidden}
          onClick={() => ('one' in row ? onOpen(row.one) : onTodo(row.todo))}
          className="text-left font-semibold text-ink hover:underline"
          style={{
            borderInlineStart: `4px solid ${flower(categoryOf(row)?.tone) ?? 'transparent'}`,
            paddingInlineStart: 6,
          }}
        >
          {titleOf(row)}
        </button>
      ),
    },
    { id: 'place', head: 'Where', value: (row) => ('one' in row ? row.one.place : ''), wide: true },
    {
      id: 'category',
      head: 'Category',
      value: (row) => categoryOf(row)?.name ?? '',
      group: (row) => categoryOf(row)?.name ?? '',
      wide: true,
    },
    { id: 'kind', head: 'Kind', value: kindOf, group: kindOf, wide: true },
    {
      id: 'repeats',
      head: 'Repeats',
      value: (row) =>
        'one' in row && row.one.repeats ? (row.one.changed ? 'series, changed' : 'series') : '',
      wide: true,
    },
    {
      id: 'answer',
      head: 'Answer',
      value: (row) => answerOf(row),
      group: (row) => ('one' in row ? answerOf(row) : 'to do'),
      wide: true,
    },
  ]
}

const LISTS = [
  { list: 'days', words: 'These days' },
  { list: 'invitations', words: 'Invitations' },
  { list: 'todos', words: 'All to-dos' },
] as const

const addressOf = (search: URLSearchParams, list: (typeof LISTS)[number]['list']): string => {
  const next = new URLSearchParams(search)
  if (list === 'days') next.delete('list')
  else next.set('list', list)
  return next.toString()
}

/** What stands on the days, and what is due on them, as a list; or what is found in all days; or all to-dos, or all invitations. */
export const DayList = ({
  mine,
  find,
  onFind,
  occurrences,
  todos,
  categories,
  onOpen,
  onTodo,
}: {
  /** Whether they are my own days. */
  mine: boolean
  /** What is looked for in all days. */
  find: string
  onFind: (text: string) => void
  occurrences: readonly OccurrenceOnWire[]
  todos: readonly DueTodo[]
  categories: readonly Category[]
  onOpen: (one: OccurrenceOnWire) => void
  onTodo: (todo: DueTodo) => void
}) => {
  const { zone } = useMe()
  const today = dayOf(toWall(zone, useNow()))
  const [search, setSearch] = useSearchParams()
  const shown = (mine && LISTS.find(({ list }) => list === search.get('list'))?.list) || 'days'
  const openInvitation = useCallback(
    ({ entryId, recurrence }: { entryId: string; recurrence: string }) =>
      setSearch((before) => {
        const next = new URLSearchParams(before)
        next.set('meeting', entryId)
        next.set('date', recurrence)
        for (const name of ['change', 'todo']) next.delete(name)
        return next
      }),
    [setSearch],
  )
  const rows = useMemo<readonly Listed[]>(
    () => [...occurrences.map((one) => ({ one })), ...todos.map((todo) => ({ todo }))],
    [occurrences, todos],
  )
  // biome-ignore lint/correctness/useExhaustiveDependencies: what opens a row is another function each time, and does the same.
  const columns = useMemo(
    () => columnsFor(zone, today, categories, onOpen, onTodo),
    [zone, today, categories],
  )
  return (
    <div className="px-4.5 pb-4 max-md:px-2.5">
      {mine && (
        <div className="flex flex-wrap gap-2 pb-2">
          <LinkSwitch
            label="Lists"
            views={LISTS.map(({ list, words }) => ({
              to: { search: addressOf(search, list) },
              name: words,
              here: list === shown,
            }))}
          />
          {shown === 'days' && (
            <input
              type="search"
              aria-label="Find in all days"
              placeholder="Find in all days: a word, a name, a place"
              value={find}
              onChange={(event) => onFind(event.target.value)}
              className="min-h-8 min-w-0 max-w-md flex-1 rounded-md border border-soft/50 bg-paper px-2.5 max-md:min-h-thumb"
            />
          )}
        </div>
      )}
      {shown === 'todos' ? (
        <TodoTable categories={categories} onOpen={onTodo} />
      ) : shown === 'invitations' ? (
        <InvitationTable onOpen={openInvitation} />
      ) : mine && find ? (
        <FoundList text={find} />
      ) : (
        <ListTable
          label="List"
          one="row"
          many="rows"
          columns={columns}
          rows={rows}
          keyOf={(row) =>
            'one' in row ? `${row.one.entryId} ${row.one.recurrence} ${row.one.start}` : row.todo.id
          }
          sortedBy="start"
          csvName="my-time.csv"
          empty={<Empty>Nothing in these days answers to what you look for.</Empty>}
        />
      )}
    </div>
  )
}
