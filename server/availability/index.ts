export { guestFeedTime, ownFeedTime } from './feed-time.ts'
export { layBeside } from './layer-store.ts'
export { readTimeAt } from './store.ts'
