export { comeTo, countLooks, type DoorLimit } from './doors.ts'
export { findLink, keepLink, lastingLinks, linksSince, makeLinks, revokeLinks, useUp } from './store.ts'
