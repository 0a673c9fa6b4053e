export { changeTodoTo, insertTodos, type KnownTodo, todosOf, undoTodos } from './exchange.ts'
export { dueBetween, dueTodos, findTodos } from './store.ts'
