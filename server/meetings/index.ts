export { answerInvitation } from './answers.ts'
export { meetingsFor } from './store.ts'
