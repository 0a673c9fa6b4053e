export { readResources } from './store.ts'
