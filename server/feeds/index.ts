export { feedTasks, planFeeds } from './reading.ts'
export { tidyImports } from './store.ts'
