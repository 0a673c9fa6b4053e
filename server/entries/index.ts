export { moveHorizon, writeOccurrences } from './occurrences.ts'
export { insertEntry, ownOccurrences } from './store.ts'
export { timeOrProblem } from './time.ts'
