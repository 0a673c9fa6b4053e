export { dropHold } from './holds.ts'
