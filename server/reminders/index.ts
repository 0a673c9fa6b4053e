export { remind } from './store.ts'
