export { dropHold, holdsStanding, keepHold } from './holds.ts'
export { readLanes } from './store.ts'
