export { openInbox } from './inbox.ts'
