export {
  type HitReservation,
  hitsOf,
  likesFor,
  MOST_HIT,
  type StandingReservation,
  standingAt,
  standingOf,
} from './hits.ts'
export {
  decideRequests,
  endLapsed,
  lapsedEntries,
  newRequests,
  type PlaceAsked,
  requestedDate,
  requestsFor,
} from './requests.ts'
export {
  forgetOfEntries,
  lockResources,
  NO_DOUBLE,
  readReservations,
  releaseOfEntry,
  releaseReservations,
  reservedBy,
  stillReserving,
} from './store.ts'
export {
  findPlaces,
  movePlaces,
  PlaceRefused,
  putPlacesBack,
  takePlaces,
  type WantedDate,
  withAlternatives,
} from './take.ts'
