export { findLink, lastingLinks, linksSince, makeLinks } from './store.ts'
