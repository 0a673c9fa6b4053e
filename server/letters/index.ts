export { sendBack } from './back.ts'
export { declineCounter } from './decline.ts'
export { nudge } from './nudge.ts'
export { oweLetters, oweTellings, type Telling, tellsIn, toldIn } from './owed.ts'
export { isRefused, openTransport, sendAgain } from './send.ts'
export {
  invitationTo,
  type LetterState,
  letterKey,
  lettersOf,
  nudgedIn,
  readerOf,
  toldLast,
} from './store.ts'
