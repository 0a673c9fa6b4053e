export { onWire, readTimeAt } from './store.ts'
