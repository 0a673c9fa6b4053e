export { hoursOf, onWire } from './store.ts'
