import { type DueTodo, type Todo, todosEvent } from '@marmot/contract/todo'
import {
  type createTodo as CreateTodo,
  changeTodo,
  createTodo,
  deleteTodo,
  listTodos,
  readTodo,
  restoreTodo,
} from '@marmot/contract/todos'
import { type Day, dayOf, type Instant, wallFromText, type ZoneTable, zoneTable } from '@marmot/core/time'
import { type Due, dueDay, inDueOrder, STANDINGS, type Standing, standingOf } from '@marmot/core/todos'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useMemo } from 'react'
import { useSearchParams } from 'react-router'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { heed, ON_MY_TIME, useTodosChanged } from '../platform/live.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'

const todosKey = (...asked: readonly string[]) => ['todos', ...asked]

/** My to-dos and those that were given to me: the open ones, and what was done lately. */
export const useTodos = (enabled = true) =>
  useQuery({
    queryKey: todosKey('lately'),
    queryFn: ({ signal }) => call(listTodos, { signal }),
    enabled,
    // Time that is set aside for one is on my days.
    meta: { heeds: [heed(todosEvent), ...ON_MY_TIME] },
  })

/** One to-do, also one that was done long ago. */
export const useTodo = (todoId: string | null) => {
  const queries = useQueryClient()
  return useQuery({
    queryKey: todosKey('one', todoId ?? ''),
    queryFn: ({ signal }) => call(readTodo, { params: { todoId: todoId ?? '' }, signal }),
    enabled: todoId !== null,
    // As the list has it, until it is here.
    placeholderData: () =>
      queries.getQueryData<{ todos: Todo[] }>(todosKey('lately'))?.todos.find((one) => one.id === todoId),
    meta: { heeds: [heed(todosEvent), ...ON_MY_TIME] },
  })
}

export type TodoBody = z.input<(typeof CreateTodo)['body']>

/** When a to-do is due, as core has it. */
export const dueOf = ({ due, dueAllDay, zone }: Pick<Todo, 'due' | 'dueAllDay' | 'zone'>): Due | null => {
  const wall = due === null ? null : wallFromText(due)
  if (wall === null) return null
  return dueAllDay ? { day: dayOf(wall) } : { wall, zone: zoneTable(zone) }
}

/** Open to-dos under their headings, each in its order; headings with none are left out. */
export const inSections = (
  todos: readonly Todo[],
  now: Instant,
  home: ZoneTable,
): { readonly id: Standing; readonly words: string; readonly todos: readonly Todo[] }[] => {
  const order = inDueOrder(home)
  const open = todos
    .filter((todo) => !todo.done)
    .map((todo) => ({ todo, due: dueOf(todo), title: todo.title, priority: todo.priority }))
    .sort(order)
  return STANDINGS.map(({ id, words }) => ({
    id,
    words,
    todos: open.filter(({ due }) => standingOf(due, now, home) === id).map(({ todo }) => todo),
  })).filter((section) => section.todos.length > 0)
}

const NONE: readonly DueTodo[] = []

/** What is due, by its day on my calendar. */
export const useDueOn = (todos: readonly DueTodo[] | undefined): ((day: Day) => readonly DueTodo[]) => {
  const { zone } = useMe()
  return useMemo(() => {
    const days = new Map<Day, DueTodo[]>()
    for (const todo of todos ?? NONE) {
      const due = dueOf(todo)
      if (!due) continue
      const day = dueDay(due, zone)
      const known = days.get(day)
      if (known) known.push(todo)
      else days.set(day, [todo])
    }
    return (day) => days.get(day) ?? NONE
  }, [todos, zone])
}

/** Makes, changes and deletes to-dos, each with a way back. */
export const useTodoWrites = () => {
  const personId = useMe().person.id
  const say = useUndo()
  const refresh = useTodosChanged(personId)

  const remove = async (todo: Todo) => {
    await call(deleteTodo, { params: { todoId: todo.id }, query: { version: todo.version } })
    say({
      words: `${todo.title} is deleted`,
      undo: async () => {
        await call(restoreTodo, { params: { todoId: todo.id } })
        await refresh()
      },
    })
    await refresh()
  }

  const make = async (body: TodoBody, key: string): Promise<Todo> => {
    const made = await call(createTodo, { body, key })
    say({
      words: `${made.title} is on your list${made.given ? `, and ${made.given} is told` : ''}`,
      undo: async () => {
        await call(deleteTodo, { params: { todoId: made.id }, query: { version: made.version } })
        await refresh()
      },
    })
    await refresh()
    return made
  }

  /** Changes what differs of a to-do; taken back, all of it is as it was. */
  const change = async (todo: Todo, part: Partial<TodoBody>, words: string, said = ''): Promise<Todo> => {
    const put = (body: Partial<TodoBody>, version: number, told: string) =>
      call(changeTodo, { params: { todoId: todo.id }, body: { ...todo, ...body, version, words: told } })
    const changed = await put(part, todo.version, said)
    // What one gave back cannot be taken again: it is its owner's to give.
    if (changed.ownerId !== personId && changed.givenTo === null) toast(words)
    else
      say({
        words,
        undo: async () => {
          await put(todo, changed.version, '')
          await refresh()
        },
      })
    await refresh()
    return changed
  }

  return { make, change, remove, refresh }
}

/** Which to-do is open beside the screen, or their list, or a new one; and how that is opened and closed. */
export const useTodoInAddress = () => {
  const [search, setSearch] = useSearchParams()
  const open = search.get('todo')
  const show = (which: 'list' | 'new' | (string & {}) | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before)
      for (const name of ['meeting', 'date', 'change']) next.delete(name)
      if (which) next.set('todo', which)
      else next.delete('todo')
      return next
    })
  return { open, show }
}
