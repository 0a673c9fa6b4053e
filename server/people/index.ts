export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { peopleByIds, tidyPeople } from './store.ts'
