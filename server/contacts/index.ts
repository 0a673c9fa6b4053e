export { findContacts } from './store.ts'
