export { changeTodoTo, insertTodos, type KnownTodo, todosOf, undoTodos } from './exchange.ts'
export { dueTodos, findTodos } from './store.ts'
