import type { ForecastHour } from '@marmot/core/weather'
import { z } from 'zod'

/** A service that does not answer within this is asked again later. */
const PATIENCE_MS = 3000
/** A forecast of a place takes a few kilobytes. */
const MOST_BYTES = 512 * 1024
const MOST_HOURS = 1000

const number = z.number()
const answer = z.object({
  issued: z.iso.datetime({ offset: true }),
  hours: z
    .array(
      z.object({
        time: z.iso.datetime({ offset: true }),
        temperature: number,
        precipitation: number,
        probability: number,
        wind: number,
      }),
    )
    .max(MOST_HOURS),
})

/** What the service said of a place: when it was issued, and each hour as it came. */
export interface Said {
  readonly issued: number
  readonly hours: readonly ForecastHour[]
}

/** The body of an answer, as long as it is no longer than anybody would need. */
const textOf = async (response: Response): Promise<string> => {
  const parts: Uint8Array[] = []
  let bytes = 0
  for await (const part of response.body ?? []) {
    bytes += part.byteLength
    if (bytes > MOST_BYTES) throw new Error('the weather service answered with too much')
    parts.push(part)
  }
  return Buffer.concat(parts).toString('utf8')
}

/** Asks the service what is expected at a place, in degrees. Throws where it does not answer, or not in its form. */
export const askWeather = async (
  url: string,
  { latitude, longitude }: { readonly latitude: number; readonly longitude: number },
): Promise<Said> => {
  const response = await fetch(`${url}/forecast?latitude=${latitude}&longitude=${longitude}`, {
    signal: AbortSignal.timeout(PATIENCE_MS),
    redirect: 'error',
    headers: { accept: 'application/json' },
  })
  if (!response.ok) throw new Error(`the weather service answered ${response.status}`)
  const said = answer.parse(JSON.parse(await textOf(response)))
  return {
    issued: Date.parse(said.issued),
    hours: said.hours.map((hour) => ({
      at: Date.parse(hour.time),
      temperature: hour.temperature,
      rain: hour.precipitation,
      chance: hour.probability,
      wind: hour.wind,
    })),
  }
}
