export { levelsFor, viewerOf } from './store.ts'
