export { findLink, linksSince, makeLinks } from './store.ts'
