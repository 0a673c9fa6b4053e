export { remind, reminderTasks, tidyReminders } from './reminders.ts'
export { addActNotice, addAnswerNotice, addNotices, addSharedNotices, answersSince } from './store.ts'
