import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'

const DAY = 86_400_000
const HOUR = 3_600_000
/** It says what comes in seven days, and says it anew every six hours. */
const DAYS_AHEAD = 7
const ISSUED_EVERY = 6 * HOUR

/** Of three days two are wet, of four one is windy; not the same ones everywhere. */
const frontOf = (day: number, place: number) => ({
  wet: (day + place) % 3 !== 0,
  windy: (day + place) % 4 === 1,
})

const round = (value: number): number => Math.round(value * 10) / 10

/** One hour at a place: cold at night and far from the equator, wet and windy as the fronts come. */
const hourAt = (at: number, latitude: number, longitude: number) => {
  const place = Math.abs(Math.round(latitude * 7 + longitude * 3))
  const solar = at + (longitude / 15) * HOUR
  const { wet, windy } = frontOf(Math.floor(solar / DAY), place)
  const clock = (solar % DAY) / HOUR
  const season = Math.cos(((solar / DAY - 200) / 365.25) * 2 * Math.PI) * (latitude >= 0 ? 1 : -1)
  const mean = 27 - Math.abs(latitude) * 0.42 + season * Math.abs(latitude) * 0.17
  const shower = wet ? 1.3 + Math.sin(clock * 1.7 + place) : 0
  return {
    time: new Date(at).toISOString(),
    temperature: round(mean + 4 * Math.sin(((clock - 9) / 24) * 2 * Math.PI) - (wet ? 2 : 0)),
    precipitation: round(Math.max(0, shower)),
    probability: wet ? 85 : 5,
    wind: round((windy ? 48 : 12) + 6 * Math.sin(clock / 4 + place)),
  }
}

/**
 * A simulated weather service: `GET /forecast?latitude=…&longitude=…` gives what is expected there hour by hour, as JSON. The same
 * place at the same hour always gets the same weather. A port of 0 means any free one.
 */
export const startWeatherStandIn = async (given: { port: number; now: () => number }) => {
  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', 'http://localhost')
    const [latitude, longitude] = ['latitude', 'longitude'].map((name) =>
      Number.parseFloat(url.searchParams.get(name) ?? ''),
    )
    if (
      url.pathname !== '/forecast' ||
      latitude === undefined ||
      longitude === undefined ||
      !(Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180)
    ) {
      response.writeHead(404, { 'content-type': 'application/json' }).end('{}')
      return
    }
    const issued = Math.floor(given.now() / ISSUED_EVERY) * ISSUED_EVERY
    const hours = Array.from({ length: DAYS_AHEAD * 24 }, (_, i) =>
      hourAt(issued + i * HOUR, latitude, longitude),
    )
    response
      .writeHead(200, { 'content-type': 'application/json' })
      .end(JSON.stringify({ issued: new Date(issued).toISOString(), hours }))
  })
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(given.port, '127.0.0.1', resolve)
  })
  const { port } = server.address() as AddressInfo
  return {
    port,
    stop: () =>
      new Promise<void>((resolve) => {
        server.closeAllConnections()
        server.close(() => resolve())
      }),
  }
}
