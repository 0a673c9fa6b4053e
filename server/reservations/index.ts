export { forgetOfEntries, NO_DOUBLE, readReservations, releaseOfEntry } from './store.ts'
export { findPlaces, PlaceRefused, takePlaces, type WantedDate, withAlternatives } from './take.ts'
