export { hearersOf, levelsFor, ownersSeenBy, viewerOf } from './store.ts'
