export { addFileAt, conversationFor, sayAt, setRemoved, talkingAt } from './talk.ts'
