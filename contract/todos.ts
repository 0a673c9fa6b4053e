import { z } from 'zod'
import { id, route } from './route.ts'
import { listedTodo, said, todo } from './todo.ts'

export const listTodos = route({
  method: 'GET',
  path: '/api/todos',
  summary:
    'My to-dos, and those that were given to me: the open ones, and what was done in the last two weeks, or ever.',
  who: 'person',
  query: () => z.object({ done: z.enum(['lately', 'all']).default('lately') }),
  answer: () =>
    z.object({
      todos: z.array(listedTodo),
      /** True where there are more than are told. */
      more: z.boolean(),
    }),
})

export const readTodo = route({
  method: 'GET',
  path: '/api/todos/:todoId',
  summary: 'A to-do of mine, or one that was given to me.',
  who: 'person',
  params: () => z.object({ todoId: id }),
  answer: () => todo,
})

export const createTodo = route({
  method: 'POST',
  path: '/api/todos',
  summary: 'Make a to-do, for oneself or given to a colleague, who is told.',
  who: 'person',
  repeatable: true,
  body: () => z.object(said),
  answer: () => todo,
})

export const changeTodo = route({
  method: 'PUT',
  path: '/api/todos/:todoId',
  summary:
    'Change a to-do as it was at `version`. Whoever it was given to says how far it is, or gives it back with `words`.',
  who: 'person',
  params: () => z.object({ todoId: id }),
  body: () =>
    z.object({
      ...said,
      version: z.number().int(),
      /** What is said to whoever is told of it. */
      words: z.string().trim().max(500).default(''),
    }),
  answer: () => todo,
})

export const deleteTodo = route({
  method: 'DELETE',
  path: '/api/todos/:todoId',
  summary: 'Delete a to-do of mine as it was at `version`.',
  who: 'person',
  params: () => z.object({ todoId: id }),
  query: () => z.object({ version: z.coerce.number().int() }),
})

export const restoreTodo = route({
  method: 'POST',
  path: '/api/todos/:todoId/restore',
  summary: 'Bring back a to-do of mine that was deleted.',
  who: 'person',
  params: () => z.object({ todoId: id }),
  answer: () => todo,
})
