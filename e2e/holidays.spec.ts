import { expect } from '@playwright/test'
import { test } from './journey.ts'
import {
  arrangeWith,
  expectAccessible,
  expectNoSideways,
  expectThumbs,
  more,
  sheetOf,
  signIn,
  tabTo,
} from './person.ts'
import { MARMOT } from './ports.ts'

test('a weekly series from Innsbruck with Nairobi names the holidays of both among its clashes, and goes round them', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Matteo Ruprechter')
  await arrangeWith(page, ['Wanjiru Kamande'])
  await page.getByRole('button', { name: /^When/ }).click()
  await page.getByLabel('To', { exact: true }).fill('2026-12-02')
  await page.getByLabel('From', { exact: true }).fill('2026-12-01')
  await page.keyboard.press('Escape')
  const best = page.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await best.filter({ hasText: 'Tue 1 Dec' }).first().click()
  await more(page)
  await page.getByRole('button', { name: /repeat|series/i }).click()
  const sheet = sheetOf(page, 'A series')
  await sheet.getByLabel('How often').selectOption('1 week')
  await sheet.getByLabel('How many dates').selectOption('16')
  await sheet.getByLabel('Title').fill('Glacier pairs')
  const dates = sheet.getByRole('region', { name: 'Dates' }).getByRole('listitem')
  await expect(dates).toHaveCount(16)
  const [innsbruck, nairobi] = [
    dates.filter({ hasText: 'Tue 8 Dec' }),
    dates.filter({ hasText: 'Tue 9 Mar' }),
  ]
  await expect(innsbruck).toContainText('Matteo is away: Immaculate Conception')
  await expect(nairobi).toContainText('Wanjiru is away: End of Ramadan (Eid al-Fitr)')
  await innsbruck.getByRole('button', { name: /^\w+ \d+ Dec/ }).click()
  await expect(innsbruck).toContainText('another day that week')
  await nairobi.getByRole('button', { name: /^\w+ \d+ Mar/ }).click()
  await expect(nairobi).toContainText('another day that week')
  await sheet.getByRole('button', { name: /^Make 16 dates/ }).click()
  await expect(sheetOf(page, 'Glacier pairs')).toBeVisible()
})

test('a site’s own day is added by keys, stands on its lanes, is taken away and comes back; somebody works on a holiday', async ({
  browser,
}) => {
  const name = 'Power is out'
  const page = await signIn(browser, 'Aroha Pene')
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('dialog', { name: 'Find' }).getByRole('combobox')).toBeFocused()
  await page.keyboard.type('holidays')
  await expect(page.getByRole('option', { name: /^Holidays/ })).toBeVisible()
  await page.keyboard.press('Enter')
  const table = page.getByRole('table', { name: 'Days off' })
  await expect(table.getByRole('row', { name: /Waitangi Day/ }).first()).toContainText('public holiday')
  await expectAccessible(page, 'Holidays')
  await tabTo(page, page.getByRole('button', { name: 'Add days' }))
  await page.keyboard.press('Enter')
  const sheet = sheetOf(page, 'Days off in Dunedin')
  await expect(sheet.getByLabel('What it is')).toBeFocused()
  await page.keyboard.type(name)
  await page.keyboard.press('Tab')
  await page.keyboard.type('12102026')
  await expectAccessible(page, 'Days off are added')
  await page.keyboard.press('Enter')
  await expect(table.getByRole('row', { name: new RegExp(name) })).toContainText('Thu 10 Dec 2026')

  // It is on the lanes of everybody who works there.
  await page.goto(`${MARMOT}/time?day=2026-12-10`)
  await expect(page.getByText(`away · ${name}`).first()).toBeVisible()
  // Whoever has to be there all the same presses an hour, as on any other day.
  const day = await page.getByRole('gridcell', { name: /^Thursday 10 December/ }).boundingBox()
  if (!day) throw new Error('That day is not there')
  await page.mouse.click(day.x + day.width / 2, day.y + day.height / 2)
  await expect(sheetOf(page, 'New entry')).toContainText('10 December')
  await page.keyboard.press('Escape')
  await page.goto(`${MARMOT}/settings?part=holidays`)
  await table.getByRole('button', { name }).click()
  await sheetOf(page, name).getByRole('button', { name: 'Take away' }).click()
  await expect(table.getByRole('row', { name: new RegExp(name) })).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(table.getByRole('row', { name: new RegExp(name) })).toBeVisible()
  await table.getByRole('button', { name }).click()
  await sheetOf(page, name).getByRole('button', { name: 'Take away' }).click()
  await expect(table.getByRole('row', { name: new RegExp(name) })).toHaveCount(0)

  const works = table.getByRole('checkbox', { name: 'I work on Christmas Day' }).first()
  await works.check()
  await expect(page.getByText('You work on Christmas Day')).toBeVisible()
  await expect(works).toBeChecked()
  await page.keyboard.press('Control+z')
  await expect(works).not.toBeChecked()
})

test('on a phone holidays are read, and those of a site that knows none are said to be its own', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Tashi Lhendup', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  await page.goto(`${MARMOT}/settings?part=holidays`)
  await expect(page.getByText('Nobody has said which public holidays Kathmandu has.')).toBeVisible()
  await expect(page.getByRole('table', { name: 'Days off' })).toContainText('Staff outing to the upper huts')
  await expectNoSideways(page)
  await expectThumbs(page, 'Holidays on a phone')
  await expectAccessible(page, 'Holidays on a phone')
})
