export { type Level, levelsFor } from './store.ts'
