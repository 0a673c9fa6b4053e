export { tidyImports } from './imports.ts'
export { feedTasks, planFeeds } from './reading.ts'
