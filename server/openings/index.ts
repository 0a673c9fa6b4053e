export { dropHold, holdsStanding, keepHold } from './holds.ts'
export { readSearchPlaces } from './search.ts'
export { readLanes, readOwnLanes } from './store.ts'
