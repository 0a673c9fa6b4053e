export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { peopleByIds } from './store.ts'
