export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { applyZoneChanges, lastingSessions, peopleByIds, tidyPeople } from './store.ts'
