export { comeTo, type DoorLimit } from './doors.ts'
export { findLink, keepLink, lastingLinks, linksSince, makeLinks, revokeLinks } from './store.ts'
