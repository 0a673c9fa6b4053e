import type { Todo } from '@marmot/contract/todo'
import {
  changeTodo,
  createTodo,
  deleteTodo,
  listTodos,
  readTodo as readTodoRoute,
  restoreTodo,
} from '@marmot/contract/todos'
import { DAY, isZone } from '@marmot/core/time'
import { type Given, type TodoRefusal, todoNotices, todoRefusal } from '@marmot/core/todos'
import { addTodoNotices } from '../notices/index.ts'
import { peopleByIds } from '../people/index.ts'
import { noteOrProblem } from '../platform/clean.ts'
import { isRefusedBy, type Sql, transaction } from '../platform/database.ts'
import { tellTodos } from '../platform/live.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { once, type Routes } from '../platform/router.ts'
import {
  insertTodo,
  type KeptTodo,
  lockTodo,
  MOST_TODOS,
  readTodo,
  readTodos,
  SOURCE_TAKEN,
  setTodoDeleted,
  type TodoState,
  updateTodo,
} from './store.ts'

/** What was done stays in sight for so long. */
const LATELY = 14 * DAY

const dueText = ({ due, dueAllDay, zone }: TodoState): string | null =>
  due && `${due} ${dueAllDay ? 'day' : zone}`

const givenOf = (todo: TodoState & { readonly ownerId: string }): Given => ({
  ownerId: todo.ownerId,
  givenTo: todo.givenTo,
  done: todo.done,
  due: dueText(todo),
})

/** What is asked for, as it is kept: a day begins at midnight, and nobody gives something to themselves. */
const stateOf = async (sql: Sql, ownerId: string, given: TodoState): Promise<TodoState> => {
  if (!isZone(given.zone))
    throw new ProblemError(422, 'unknown-zone', `There is no time zone called "${given.zone}".`, {
      fields: [{ path: 'zone', message: 'is no time zone' }],
    })
  const givenTo = given.givenTo === ownerId ? null : given.givenTo
  if (givenTo && (await peopleByIds(sql, [givenTo])).length === 0)
    throw new ProblemError(
      422,
      'nobody-there',
      'That colleague is not here any more. Choose somebody else.',
      {
        fields: [{ path: 'givenTo', message: 'is nobody here' }],
      },
    )
  return {
    ...given,
    note: noteOrProblem(given.note),
    due: given.due && given.dueAllDay ? `${given.due.slice(0, 10)}T00:00` : given.due,
    givenTo,
  }
}

const refused = (why: TodoRefusal): ProblemError => {
  if (why === 'nobodys') return notFound('to-do of yours')
  return why === 'give-back-only'
    ? new ProblemError(
        403,
        'give-back-only',
        'This was given to you. Give it back, and say who could do it: its owner gives it on.',
      )
    : new ProblemError(
        403,
        'only-its-owner',
        'What is to be done, and by when, is said by whoever gave it to you. You can say how far it is, or give it back.',
      )
}

/** What whoever it was given to can change of it. */
const byReceiver = (kept: KeptTodo, wanted: TodoState): TodoState => ({
  ...kept,
  percent: wanted.percent,
  done: wanted.done,
  givenTo: wanted.givenTo,
})

const differs = (kept: KeptTodo, wanted: TodoState): boolean =>
  kept.title !== wanted.title ||
  kept.note !== wanted.note ||
  kept.minutes !== wanted.minutes ||
  kept.priority !== wanted.priority

const seenBy = async (sql: Sql, todoId: string, personId: string): Promise<Todo> => {
  const todo = await readTodo(sql, todoId, personId)
  if (!todo) throw notFound('to-do of yours')
  return todo
}

const concerned = (...people: (string | null)[]): string[] => [
  ...new Set(people.filter((one) => one !== null)),
]

/** The to-do of somebody, locked, as they saw it. */
const lockAsSeen = async (sql: Sql, todoId: string, version: number, askerId: string): Promise<KeptTodo> => {
  const kept = await lockTodo(sql, todoId)
  const mine = kept && (kept.ownerId === askerId || kept.givenTo === askerId)
  if (!kept || kept.deleted || !mine) throw notFound('to-do of yours')
  if (kept.version !== version)
    throw new ProblemError(
      409,
      'stale',
      `"${kept.title}" was changed meanwhile. Nothing of yours was lost: choose what to keep.`,
      { more: { version: kept.version, newest: await readTodo(sql, todoId, askerId) } },
    )
  return kept
}

export const todosRoutes = ({ mount, deps }: Routes): void => {
  const { pool, clock } = deps

  mount(listTodos, async ({ query, asker }) => {
    const todos = await readTodos(pool, asker.id, query.done === 'all' ? 0 : clock() - LATELY)
    return { todos: todos.slice(0, MOST_TODOS), more: todos.length > MOST_TODOS }
  })

  mount(readTodoRoute, ({ params, asker }) => seenBy(pool, params.todoId, asker.id))

  mount(createTodo, ({ body, asker, context }) =>
    transaction(pool, (sql) =>
      once(sql, clock, { asker, context, body }, async () => {
        const state = await stateOf(sql, asker.id, body)
        const todoId = await insertTodo(sql, asker.id, state, clock())
        const after = givenOf({ ...state, ownerId: asker.id })
        await addTodoNotices(
          sql,
          todoId,
          withWords(todoNotices(null, after, asker.id), ''),
          asker.id,
          clock(),
        )
        await tellTodos(sql, concerned(asker.id, state.givenTo))
        return seenBy(sql, todoId, asker.id)
      }),
    ),
  )

  mount(changeTodo, ({ params, body, asker }) =>
    transaction(pool, async (sql) => {
      const { version, words, ...given } = body
      const kept = await lockAsSeen(sql, params.todoId, version, asker.id)
      const wanted = await stateOf(sql, kept.ownerId, given)
      const others = differs(kept, wanted)
      const refusal = todoRefusal(
        givenOf(kept),
        { ...givenOf({ ...wanted, ownerId: kept.ownerId }), others },
        asker.id,
      )
      if (refusal) throw refused(refusal)
      const next = asker.id === kept.ownerId ? wanted : byReceiver(kept, wanted)
      await updateTodo(sql, kept.id, next, clock())
      const after = givenOf({ ...next, ownerId: kept.ownerId })
      const told = todoNotices(givenOf(kept), after, asker.id)
      await addTodoNotices(sql, kept.id, withWords(told, words), asker.id, clock())
      await tellTodos(sql, concerned(kept.ownerId, kept.givenTo, next.givenTo))
      // Whoever gives it back has it no more, and is told how it was left.
      return (
        (await readTodo(sql, kept.id, asker.id)) ?? {
          ...(await seenBy(sql, kept.id, kept.ownerId)),
          categoryId: null,
          times: [],
        }
      )
    }),
  )

  mount(deleteTodo, ({ params, query, asker }) =>
    transaction(pool, async (sql) => {
      const kept = await lockAsSeen(sql, params.todoId, query.version, asker.id)
      if (kept.ownerId !== asker.id) throw refused('only-its-owner')
      await setTodoDeleted(sql, kept.id, clock(), clock())
      await tellTodos(sql, concerned(kept.ownerId, kept.givenTo))
      return {}
    }),
  )

  mount(restoreTodo, ({ params, asker }) =>
    transaction(pool, async (sql) => {
      const kept = await lockTodo(sql, params.todoId)
      if (kept?.ownerId !== asker.id) throw notFound('to-do of yours')
      if (kept.deleted) await setTodoDeleted(sql, kept.id, null, clock())
      await tellTodos(sql, concerned(kept.ownerId, kept.givenTo))
      return seenBy(sql, kept.id, asker.id)
    }).catch((error) => {
      if (!isRefusedBy(error, SOURCE_TAKEN)) throw error
      throw new ProblemError(
        409,
        'there-again',
        'The same to-do came from a file meanwhile: it is on your list already.',
      )
    }),
  )
}

const withWords = <T>(notices: readonly T[], words: string) => notices.map((one) => ({ ...one, words }))
