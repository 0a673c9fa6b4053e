export { categoriesFor } from './categories.ts'
export { noteChange, stateOf } from './changes.ts'
export {
  firstDatesOf,
  firstDatesOfKept,
  horizonOf,
  SINGLE,
  writeFirstDates,
  writeOccurrences,
} from './dates.ts'
export { type EntryState, type KeptOverride, overrideOf, readEntrySql, readOverrideSql } from './fields.ts'
export { actingFor, maySee, standingIn } from './looking.ts'
export {
  answeredAt,
  entryOf,
  type Invited,
  insertParticipants,
  noteSeen,
  setAnswer,
  setAnswerOn,
  setOwnOfMany,
  takesPart,
} from './participants.ts'
export { datesOfMany, placedEntries, placesOf, whereAreThey, whereOf } from './places.ts'
export {
  insertEntries,
  isEntry,
  lockByUid,
  lockEntry,
  lockHold,
  lockLapsed,
  markCancelled,
  markDateCancelled,
  nextVersion,
  ownOccurrences,
  removeEntries,
  replaceOverrides,
  setDeleted,
  updateEntry,
} from './store.ts'
export { timeOrProblem } from './time.ts'
export {
  comingDates,
  idsOrganized,
  idsToAnswer,
  readMeetings,
  repeatsInWords,
  type WholeMeeting,
} from './whole.ts'
