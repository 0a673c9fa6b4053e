import type { LaneTime } from '@marmot/core/availability'
import { ownDay } from '@marmot/core/lanes'
import { instantFromText, zoneTable } from '@marmot/core/time'
import type { Page } from '@playwright/test'
import { drawPicture } from '../server/letters/drawing.ts'
import { median, met, quantile, tellFrames, timed } from './measuring.ts'
import { inAllRounds, scrolling, until } from './screen.ts'

const PICTURE_BUDGET = 50
const PICTURES = 40

/** How long the picture of a letter takes, words and all. */
export const measurePictures = async (): Promise<boolean> => {
  const zone = 'Europe/Vienna'
  const at = (clock: string) => instantFromText(zone, `2026-12-03T${clock}`)
  const lane: LaneTime = {
    zone,
    known: true,
    hours: [{ weekday: 4, from: 9 * 60, to: 17 * 60 }],
    outside: 'outside',
    spans: ['08', '09', '10', '11', '12', '13', '14', '15', '16', '17'].map((hour) => ({
      start: at(`${hour}:00`),
      end: at(`${hour}:45`),
      state: 'busy',
      title: 'Hazard map workshop',
    })),
  }
  const chosen = { start: at('14:00'), end: at('15:00') }
  const context = { tell: () => undefined, stopped: () => false } as never
  const times = []
  for (let i = 0; i < PICTURES; i++)
    times.push(
      await timed(() => drawPicture(ownDay(lane, zoneTable(zone), chosen, 'Snow pit').drawing, context)),
    )
  const [usual, most] = [median(times), quantile(times, 0.95)]
  console.log(
    `a letter’s picture       ${usual.toFixed(1)} ms, 95 of 100 under ${most.toFixed(1)} ms; budget ${PICTURE_BUDGET} ms: ${met(most <= PICTURE_BUDGET)}`,
  )
  return most <= PICTURE_BUDGET
}

const PEOPLE_BUDGET = 150
const PEOPLE_ROUNDS = 5
const HAND_MS = 250

const TYPE = (text: string) => `{
    const field = document.querySelector('input[aria-label="Find a person"]')
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, ${JSON.stringify(text)})
    field.dispatchEvent(new Event('input', { bubbles: true }))
  }`

/**
 * Thousands of people: listed, found by some letters, whether they are free now, and scrolled. What is there is read as `textContent`:
 * `innerText` has the page laid out for each look, a third of what was measured.
 */
export const measurePeople = async (page: Page, url: string): Promise<boolean> => {
  const row = `document.querySelector('[data-testid=people] [role=row] [role=rowheader]')`
  const listed: number[] = []
  const found: number[] = []
  const followed: number[] = []
  for (let i = 0; i < PEOPLE_ROUNDS; i++) {
    await page.goto(`${url}/now`)
    await page.getByText('Good to see you').waitFor()
    await page.waitForLoadState('networkidle')
    await page.getByRole('link', { name: 'People' }).hover()
    // A hand that has come to the link presses it about as soon.
    await page.waitForTimeout(HAND_MS)
    listed.push(await until(page, `document.querySelector('a[href="/people"]').click()`, row))
    await page
      .getByText(/free|busy|away|not at work/)
      .first()
      .waitFor()
    await page.waitForLoadState('networkidle')
    found.push(
      await until(
        page,
        TYPE('lhendup'),
        `document.querySelector('[data-testid=people]').textContent.includes('Tashi Lhendup')`,
      ),
    )
    await page.waitForTimeout(HAND_MS)
    followed.push(
      await until(
        page,
        TYPE('ro'),
        `[...document.querySelectorAll('[data-testid=people] [role=rowheader]')].filter((one) => /free|busy|away|not at work|unknown/.test(one.textContent)).length > 5`,
      ),
    )
  }
  const count =
    (await page
      .getByText(/\d+ people/)
      .first()
      .textContent()) ?? ''
  const results = (
    [
      ['people, listed', listed],
      ['people, found', found],
      ['people, free now', followed],
    ] as const
  ).map(([name, times]) => {
    const ms = median(times)
    console.log(
      `${name.padEnd(24)}${ms.toFixed(0)} ms at the median of ${times.length}; budget ${PEOPLE_BUDGET} ms: ${met(ms <= PEOPLE_BUDGET)}`,
    )
    return ms <= PEOPLE_BUDGET
  })
  await page.goto(`${url}/people`)
  await page
    .getByText(/free|busy/)
    .first()
    .waitFor()
  await page.waitForLoadState('networkidle')
  const frames = await inAllRounds(() => page.evaluate(scrolling('[data-testid=people]')))
  return [...results, tellFrames('people, scrolling', frames, count)].every(Boolean)
}
