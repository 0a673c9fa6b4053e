export { readTimeAt } from './store.ts'
