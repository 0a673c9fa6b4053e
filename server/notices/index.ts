export {
  addActNotice,
  addAnswerNotice,
  addMeantNotices,
  addMeetingNotices,
  addPlaceNotices,
  addPollNotices,
  addProposalNotice,
  addSharedNotices,
  addVisitNotices,
  answersSince,
  readNotices,
} from './store.ts'
