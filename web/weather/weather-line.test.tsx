// @vitest-environment happy-dom
import { HOUR } from '@marmot/core/time'
import { screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { aSession } from '../testing/people.ts'
import { json, NOW, problem, serve, show } from '../testing/screen.tsx'
import { WeatherLine } from './weather-line.tsx'

const [site] = aSession().sites
const siteId = site?.id ?? ''
const start = Math.ceil(NOW / HOUR) * HOUR

const forecast = (issued = NOW - HOUR, hours = 24) => ({
  siteId,
  issued: new Date(issued).toISOString(),
  from: new Date(start).toISOString(),
  temperature: Array.from({ length: hours }, () => -2),
  rain: Array.from({ length: hours }, () => 1),
  chance: Array.from({ length: hours }, () => 90),
  wind: Array.from({ length: hours }, () => 55),
})
const line = (forecasts: unknown[], from: number, hours = 1) => {
  const asked = serve({ 'GET /api/weather': () => json({ forecasts }) })
  show(
    <WeatherLine siteId={siteId} span={{ start: start + from * HOUR, end: start + (from + hours) * HOUR }} />,
  )
  return asked
}
const said = (words: RegExp) =>
  screen.findByText((_, element) => element?.tagName === 'P' && words.test(element.textContent ?? ''))

describe('the weather of something out of doors', () => {
  it('is what is expected there then, with its age', async () => {
    const asked = line([forecast()], 2)
    expect(
      await said(
        new RegExp(
          `^Out of doors in ${site?.name}: snow, −2 °C, windy, 55 km/h, as forecast at \\d\\d:\\d\\d$`,
        ),
      ),
    ).toBeTruthy()
    expect(asked.map((one) => one.path)).toEqual([`/api/weather?sites=${siteId}`])
  })

  it('is not known beyond the forecast, which is said', async () => {
    line([forecast()], 30)
    expect(await said(/not known yet: no forecast after \w{3} \d+ \w{3} \d\d:\d\d\.$/)).toBeTruthy()
  })

  it('is not known where there is no forecast', async () => {
    line([], 2)
    expect(await said(/not known yet: no forecast\.$/)).toBeTruthy()
  })

  it('is not known where it cannot be asked for', async () => {
    serve({ 'GET /api/weather': () => problem(500, 'broken', 'Something broke.') })
    show(<WeatherLine siteId={siteId} span={{ start: start + HOUR, end: start + 2 * HOUR }} />)
    expect(await said(/not known yet: no forecast\.$/)).toBeTruthy()
  })

  it('is not known from a forecast that is old', async () => {
    line([forecast(NOW - 72 * HOUR)], 2)
    expect(await said(/not known yet: no forecast\.$/)).toBeTruthy()
  })

  it('is nothing any more of what is over, and nobody is asked', () => {
    const asked = line([forecast()], -30)
    expect(screen.getByText(/^Out of doors in .*\.$/)).toBeTruthy()
    expect(asked).toEqual([])
  })
})
