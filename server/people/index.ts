export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { applyZoneChanges, peopleByIds, tidyPeople } from './store.ts'
