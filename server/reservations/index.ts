export { NO_DOUBLE, readReservations, releaseOfEntry } from './store.ts'
export { PlaceRefused, takePlaces, withAlternatives } from './take.ts'
