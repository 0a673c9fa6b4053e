import type { Category } from '@marmot/contract/entries'
import type { Todo } from '@marmot/contract/todo'
import { lengthInWords } from '@marmot/core/time'
import { dueInWords, lateFrom, priorityOf } from '@marmot/core/todos'
import { useMemo } from 'react'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { Button, Empty, flower, Loading, Trouble } from '../ui/parts.tsx'
import { dueOf, useTodos } from './todos.ts'

const URGENCY = { high: 'urgent', usual: '', low: 'not urgent' } as const
/** What is due at no time comes after all that is. */
const NEVER = Number.MAX_SAFE_INTEGER

const columnsFor = (
  me: string,
  zone: ReturnType<typeof useMe>['zone'],
  now: number,
  categories: readonly Category[],
  onOpen: (todo: Todo) => void,
): ListColumn<Todo>[] => {
  const categoryOf = (todo: Todo) => categories.find((each) => each.id === todo.categoryId)
  const urgency = (todo: Todo): string => URGENCY[priorityOf(todo.priority)]
  const dueWords = (todo: Todo) => {
    const due = dueOf(todo)
    return due ? dueInWords(due, now, zone) : ''
  }
  const whose = (todo: Todo) =>
    todo.ownerId !== me ? `from ${todo.owner}` : todo.given ? `given to ${todo.given}` : 'mine'
  const howFar = (todo: Todo) => (todo.done ? 'done' : todo.percent > 0 ? `${todo.percent} %` : '')
  return [
    {
      id: 'title',
      head: 'To do',
      value: (todo) => todo.title,
      cell: (todo) => (
        <button
          type="button"
          onClick={() => onOpen(todo)}
          className={`text-left hover:underline max-md:min-h-thumb ${todo.done ? 'text-soft' : 'font-semibold text-ink'}`}
          style={{
            borderInlineStart: `4px solid ${flower(categoryOf(todo)?.tone) ?? 'transparent'}`,
            paddingInlineStart: 6,
          }}
        >
          {todo.title}
        </button>
      ),
    },
    {
      id: 'due',
      head: 'Due',
      value: (todo) => {
        const due = dueOf(todo)
        return due ? lateFrom(due, zone) : NEVER
      },
      words: dueWords,
      cell: dueWords,
      csv: (todo) => (todo.due === null ? '' : todo.dueAllDay ? todo.due.slice(0, 10) : todo.due),
    },
    {
      id: 'takes',
      head: 'Takes',
      value: (todo) => todo.minutes ?? 0,
      words: (todo) => (todo.minutes ? lengthInWords(todo.minutes) : ''),
      cell: (todo) => (todo.minutes ? lengthInWords(todo.minutes) : ''),
      wide: true,
    },
    { id: 'urgency', head: 'Urgency', value: urgency, group: (todo) => urgency(todo) || 'usual', wide: true },
    {
      id: 'category',
      head: 'Category',
      value: (todo) => categoryOf(todo)?.name ?? '',
      group: (todo) => categoryOf(todo)?.name ?? '',
      wide: true,
    },
    { id: 'whose', head: 'Whose', value: whose, group: whose, wide: true },
    { id: 'far', head: 'How far', value: howFar, group: (todo) => (todo.done ? 'done' : 'to be done') },
  ]
}

/** All that is to be done, and was done lately, as a list. */
export const TodoTable = ({
  categories,
  onOpen,
}: {
  categories: readonly Category[]
  onOpen: (todo: Todo) => void
}) => {
  const { person, zone } = useMe()
  const now = useNow()
  const todos = useTodos()
  // biome-ignore lint/correctness/useExhaustiveDependencies: what opens a row is another function each time, and does the same.
  const columns = useMemo(
    () => columnsFor(person.id, zone, now, categories, onOpen),
    [person.id, zone, now, categories],
  )
  if (todos.isPending) return <Loading what="your to-dos" />
  if (todos.isError)
    return (
      <Trouble action={<Button onClick={() => todos.refetch()}>Try again</Button>}>
        {problemWords(todos.error)}
      </Trouble>
    )
  return (
    <ListTable
      label="To-dos"
      one="to-do"
      many="to-dos"
      columns={columns}
      rows={todos.data.todos}
      keyOf={(todo) => todo.id}
      sortedBy="due"
      csvName="to-dos.csv"
      empty={<Empty>Nothing is to be done.</Empty>}
    />
  )
}
