export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export { applyZoneChanges, hoursOf, lastingSessions, peopleByIds, tidyPeople } from './store.ts'
