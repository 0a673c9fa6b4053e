import { expect } from '@playwright/test'
import { test } from './journey.ts'
import { arrangeWith, expectAccessible, sheetOf, signIn } from './person.ts'
import { MARMOT } from './ports.ts'

/** On which of three days it is dry at somebody's site in their working hours, as the forecast says. */
const dryDays = async (page: Awaited<ReturnType<typeof signIn>>): Promise<string[]> => {
  const { person } = await (await page.request.get(`${MARMOT}/api/session`)).json()
  const { forecasts } = await (await page.request.get(`${MARMOT}/api/weather?sites=${person.siteId}`)).json()
  const [{ from, rain }] = forecasts as { from: string; rain: number[] }[] as [
    { from: string; rain: number[] },
  ]
  const days = new Map<string, number>()
  rain.forEach((mm, i) => {
    const at = new Date(Date.parse(from) + i * 3_600_000)
    const day = at.toLocaleDateString('en-GB', { timeZone: person.zone, weekday: 'short', day: 'numeric' })
    const hour = Number(at.toLocaleString('en-GB', { timeZone: person.zone, hour: '2-digit', hour12: false }))
    if (hour >= 8 && hour < 18) days.set(day, (days.get(day) ?? 0) + mm)
  })
  return [...days].filter(([, mm]) => mm === 0).map(([day]) => day.replace(',', ''))
}

test('an outing is arranged on the dry one of three days, and says so; beyond the forecast it says that', async ({
  browser,
}) => {
  const title = 'Snow pit with visitors'
  const page = await signIn(browser, 'Catalina Reyes')
  await expect.poll(async () => (await dryDays(page)).length).toBeGreaterThan(0)
  const dry = await dryDays(page)
  await arrangeWith(page, ['Nahuel Ibarra'])
  await page.getByLabel('Title', { exact: true }).fill(title)
  const days = async (from: string, to: string) => {
    await page.getByRole('button', { name: /^When/ }).click()
    await page.getByLabel('To', { exact: true }).fill(to)
    await page.getByLabel('From', { exact: true }).fill(from)
    await page.keyboard.press('Escape')
  }
  await days('2026-11-24', '2026-11-26')
  await page.getByRole('button', { name: /^Places needed/ }).click()
  await page.getByRole('checkbox', { name: 'Out of doors' }).check()
  await expect(page.getByRole('checkbox', { name: 'rather without rain and snow' })).toBeChecked()
  await expectAccessible(page, 'Out of doors')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('button', { name: 'Places needed: out of doors, dry' })).toBeVisible()
  await expect(page.getByText(/^Weather in Santiago, as forecast at \d\d:\d\d$/)).toBeVisible()
  const cards = page.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await expect(cards).toHaveCount(3)
  await expect(cards.nth(0)).toContainText(/dry, \d+ °C/)
  await expect(cards.nth(1)).toContainText(/rain, /)
  await expect(cards.nth(2)).toContainText(/rain, /)
  const best = ((await cards.nth(0).textContent()) ?? '').slice(0, 6)
  expect(dry.map((day) => day.slice(0, 6))).toContain(best)

  // The following week nobody knows it yet.
  await days('2026-12-01', '2026-12-03')
  await expect(cards.first()).toContainText(/no forecast after \w+ 30 Nov/)
  await days('2026-11-24', '2026-11-26')
  await expect(cards.nth(0)).toContainText(/dry, \d+ °C/)
  await cards.nth(0).getByRole('button').first().click()
  await page.getByRole('button', { name: 'Send 1 invitation…' }).click()
  await page.getByRole('button', { name: 'Send 1 invitation', exact: true }).click()
  const sheet = sheetOf(page, title)
  await expect(sheet).toContainText(/Out of doors in Santiago: dry, \d+ °C, as forecast at \d\d:\d\d/)
  await expectAccessible(page, 'A meeting out of doors')

  // Under a roof after all.
  await sheet.getByRole('button', { name: 'Change…' }).click()
  const change = page.getByRole('dialog').last()
  await change.getByRole('checkbox', { name: 'Out of doors' }).uncheck()
  await change.getByRole('button', { name: /^Change it/ }).click()
  await expect(sheetOf(page, title)).not.toContainText('Out of doors in Santiago')
})
