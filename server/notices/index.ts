export { addAnswerNotice, addNotices } from './store.ts'
