export { readResources, resourceIds } from './store.ts'
