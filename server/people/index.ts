export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export {
  applyZoneChanges,
  hoursOf,
  lastingSessions,
  peopleByAddress,
  peopleByIds,
  tidyPeople,
} from './store.ts'
