export { hearersOf, levelsFor } from './store.ts'
