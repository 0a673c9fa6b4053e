export {
  addActNotice,
  addAnswerNotice,
  addMeantNotices,
  addMeetingNotices,
  addPlaceNotices,
  addPollNotices,
  addProposalNotice,
  addSharedNotices,
  answersSince,
  readNotices,
} from './store.ts'
