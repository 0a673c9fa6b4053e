export {
  addActNotice,
  addAnswerNotice,
  addMeetingNotices,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
