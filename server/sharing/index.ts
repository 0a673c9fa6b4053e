export { hearersOf, levelsFor, viewerOf } from './store.ts'
