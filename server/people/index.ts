export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { listSites, peopleByIds } from './store.ts'
