export { noteChange, stateOf, tidyChanges } from './changes.ts'
export { actingFor, maySee, standingIn } from './looking.ts'
export {
  datesOf,
  horizonOf,
  moveHorizon,
  writeDates,
  writeFirstDates,
  writeOccurrences,
} from './occurrences.ts'
export { insertEntry, ownOccurrences, replaceOverrides, updateEntry } from './store.ts'
export { timeOrProblem } from './time.ts'
