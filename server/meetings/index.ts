export {
  answeredAt,
  comingDates,
  idsOrganized,
  idsToAnswer,
  meetingFor,
  readMeetings,
  repeatsInWords,
  setAnswer,
  setAnswerOn,
  type WholeMeeting,
} from './store.ts'
