export { findLink, type Link, linksSince, makeLinks, tidyLinks } from './store.ts'
