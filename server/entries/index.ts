export { answerFile, contentOf, copyAttachments, filesOfMeeting, insertAttachment } from './attachments.ts'
export { categoriesFor } from './categories.ts'
export { type KeptPlace, newestChange, noteChange, stateOf, undo } from './changes.ts'
export {
  firstDatesOf,
  firstDatesOfKept,
  handOver,
  SINGLE,
  seriesOf,
  writeFirstDates,
  writeOccurrences,
} from './dates.ts'
export {
  type Conference,
  type EntryState,
  type KeptOverride,
  overrideOf,
  readEntrySql,
  readOverrideSql,
} from './fields.ts'
export { typeOfFile } from './file-kinds.ts'
export { gapsOf, keepGaps } from './gaps.ts'
export { actingFor, actingOn, datesApart, mayActOn, maySee, mayStandIn, standingIn } from './looking.ts'
export { askInvited, isOurUid, lockOutside, type OutsideEntry, outsideSince, revive } from './outside.ts'
export {
  answeredAt,
  askAnswersAgain,
  copyAnswers,
  dropDateless,
  entryOf,
  type Invited,
  insertParticipants,
  listenersIn,
  noteDelegated,
  noteSeen,
  peopleIn,
  putParticipants,
  putParticipantsOn,
  setAnswer,
  setAnswerOn,
  setGuestZone,
  setOwn,
  setOwnOfMany,
  takesPart,
} from './participants.ts'
export { datesOfMany, placedEntries, placesOf, whereDatesAre, whereOf } from './places.ts'
export { type Asking, dateById, type Present, presentAt } from './present.ts'
export { roomsOver, roomsWanted } from './rooms.ts'
export { type DateToMake, datesToMake, runTime } from './run.ts'
export { type PlannedChange, plannedChange, seriesState } from './series.ts'
export {
  comingOnLane,
  insertEntries,
  isEntry,
  isMeetingSql,
  type KeptEntry,
  lockByUid,
  lockCounts,
  lockEntry,
  lockHold,
  lockLapsed,
  markCancelled,
  markDateCancelled,
  nextSequence,
  nextVersion,
  noteAsked,
  noteSplit,
  ownOccurrences,
  putOverride,
  readKept,
  readOverrides,
  removeEntries,
  replaceOverrides,
  setDeleted,
  updateEntry,
  wasDate,
  withOthers,
} from './store.ts'
export { timeOrProblem } from './time.ts'
export {
  comingDates,
  idsOrganized,
  idsToAnswer,
  invitationsOf,
  isReservation,
  presentIn,
  readMeetings,
  repeatsInWords,
  takeDateToNudge,
  type WholeMeeting,
} from './whole.ts'
