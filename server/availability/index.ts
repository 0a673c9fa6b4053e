export { hoursOf, onWire, readTime, readTimeAt } from './store.ts'
