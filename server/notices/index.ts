export {
  addActNotice,
  addAnswerNotice,
  addMeantNotices,
  addMeetingNotices,
  addPlaceNotices,
  addProposalNotice,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
