export { guestBy } from './guests.ts'
export { openInbox } from './inbox.ts'
