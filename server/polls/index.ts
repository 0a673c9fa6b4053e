export { pollsFor } from './reading.ts'
