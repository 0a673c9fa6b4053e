export { NO_DOUBLE, releaseOfEntry } from './store.ts'
export { PlaceRefused, takePlaces, withAlternatives } from './take.ts'
