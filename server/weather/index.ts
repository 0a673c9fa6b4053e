export { readForecasts } from './store.ts'
