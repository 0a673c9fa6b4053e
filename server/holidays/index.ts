export { findSiteDays, type OffOf, readOff, readOffOf, readShut } from './store.ts'
