import type { Privacy } from '../testing/privacy.ts'

const A_TODO = { title: 'Mine now', zone: 'Europe/Vienna' }

export const privacy: Privacy = {
  'GET /api/todos': () => [{ path: '/api/todos' }, { path: '/api/todos?done=all' }],
  'GET /api/todos/{todoId}': (about) => [{ path: `/api/todos/${about.todoId}` }],
  'POST /api/todos': 'what was just sent',
  'PUT /api/todos/{todoId}': (about) => [
    { path: `/api/todos/${about.todoId}`, body: { ...A_TODO, version: 999 } },
    { path: `/api/todos/${about.todoId}`, body: { ...A_TODO, version: 1 } },
  ],
  'DELETE /api/todos/{todoId}': (about) => [
    { path: `/api/todos/${about.todoId}?version=999` },
    { path: `/api/todos/${about.todoId}?version=1` },
  ],
  'POST /api/todos/{todoId}/restore': (about) => [{ path: `/api/todos/${about.todoId}/restore` }],
}
