export { addActNotice, addAnswerNotice, addNotices, addSharedNotices } from './store.ts'
