export { idsOrganized, idsToAnswer, meetingFor, readMeetings, setAnswer, type WholeMeeting } from './store.ts'
