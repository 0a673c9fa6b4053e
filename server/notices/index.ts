export {
  addActNotice,
  addAnswerNotice,
  addNotices,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
