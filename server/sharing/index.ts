export { levelsFor } from './store.ts'
