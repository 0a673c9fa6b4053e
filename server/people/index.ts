export { askerFinder, DEMO_PASSWORD } from './asker.ts'
export {
  findTeams,
  hoursOf,
  keepContact,
  keepQuiet,
  lastingSessions,
  listSites,
  peopleByAddress,
  peopleByIds,
  placed,
  siteOrProblem,
} from './store.ts'
