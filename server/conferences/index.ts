export { callTo, conferenceFor, joinAs, mustBeOn, serviceOf } from './joining.ts'
export { closeRoom, dial } from './service.ts'
