export { dueTodos } from './store.ts'
