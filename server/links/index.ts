export { findLink, linksSince, makeLinks, tidyLinks } from './store.ts'
