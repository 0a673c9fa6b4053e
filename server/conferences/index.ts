export { callTo, conferenceFor, dialTo, joinAs, mustBeOn, serviceOf } from './joining.ts'
export { closeRoom } from './service.ts'
