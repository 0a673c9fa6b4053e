export { answerInvitation } from './answers.ts'
export { openInbox } from './inbox.ts'
export { addMessages, invitationTasks, openTransport } from './send.ts'
