export {
  addActNotice,
  addAnswerNotice,
  addMeantNotices,
  addMeetingNotices,
  addPlaceNotices,
  addPollNotices,
  addProposalNotice,
  addSharedNotices,
  addTodoNotices,
  addVisitNotices,
  answersSince,
  readNotices,
} from './store.ts'
