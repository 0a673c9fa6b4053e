export {
  addActNotice,
  addAnswerNotice,
  addMeantNotices,
  addMeetingNotices,
  addProposalNotice,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
