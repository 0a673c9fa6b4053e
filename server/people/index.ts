export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export {
  hoursOf,
  lastingSessions,
  peopleByAddress,
  peopleByIds,
} from './store.ts'
