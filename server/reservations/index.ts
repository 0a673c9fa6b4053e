export { forgetOfEntries, NO_DOUBLE, readReservations, releaseOfEntry, reservedBy } from './store.ts'
export {
  findPlaces,
  movePlaces,
  PlaceRefused,
  putPlacesBack,
  takePlaces,
  type WantedDate,
  withAlternatives,
} from './take.ts'
