export {
  addActNotice,
  addAnswerNotice,
  addMeetingNotices,
  addProposalNotice,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
