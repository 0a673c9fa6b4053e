export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export {
  findTeams,
  hoursOf,
  keepContact,
  keepQuiet,
  lastingSessions,
  peopleByAddress,
  peopleByIds,
} from './store.ts'
