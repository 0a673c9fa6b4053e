export { addMessages, openTransport, sendAgain } from './send.ts'
export { invitationTo, type LetterState, lettersOf } from './store.ts'
