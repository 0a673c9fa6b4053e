export { dueTodos, findTodos } from './store.ts'
