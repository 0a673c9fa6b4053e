export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export {
  hoursOf,
  keepQuiet,
  lastingSessions,
  peopleByAddress,
  peopleByIds,
} from './store.ts'
