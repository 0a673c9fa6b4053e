export { remind, tidyReminders } from './store.ts'
export { reminderTasks } from './tasks.ts'
