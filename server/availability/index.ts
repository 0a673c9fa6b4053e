export { onWire, readTime, readTimeAt } from './store.ts'
