export { oweLetters, readTellings, tellsIn, toldIn } from './owed.ts'
export { openTransport, sendAgain } from './send.ts'
export { invitationTo, type LetterState, letterKey, lettersOf, readerOf, toldLast } from './store.ts'
