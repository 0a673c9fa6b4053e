export { exchangesFor } from './store.ts'
