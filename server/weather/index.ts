export { readForecasts } from './store.ts'
export { forecastsOnWire } from './wire.ts'
