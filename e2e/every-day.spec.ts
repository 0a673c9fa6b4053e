import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { arrangeWith, expectAccessible, lane, more, openMyTime, sheetOf, signIn } from './person.ts'
import { MARMOT, PARTNER } from './ports.ts'

const GUEST = 'mira.solberg@lodestar.example'
/** So many presses, beside the typing of names and words, are an errand and not a day's work. */
const MOST_PRESSES = 14

/** Counts what a person presses: buttons and fields by the mouse, and keys that are no words. */
const counting = (page: Page) => {
  const self = {
    presses: 0,
    press: async (where: Locator) => {
      self.presses++
      await where.click()
    },
    key: async (key: string) => {
      self.presses++
      await page.keyboard.press(key)
    },
  }
  return self
}

test('six people in six zones, two rooms in two cities, a text, sent: in fourteen presses at most', async ({
  browser,
}) => {
  const title = 'Season outlook, all stations'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const counted = counting(ilse)
  await counted.press(ilse.getByRole('link', { name: 'Arrange' }))
  await counted.press(ilse.getByPlaceholder('Add a person, team, address'))
  // Names as they stand in a mail; one that could be several is asked about, and stays in the field.
  await ilse.keyboard.type('Wanjiru, Tashi, Catalina; Aroha, Declan Furey, Nobody Atall')
  await expect(ilse.getByText('Nobody Atall: nobody of that name')).toBeVisible()
  await expect(ilse.getByRole('option', { name: /^Add 5 people/ })).toContainText('Aroha Pene')
  await expectAccessible(ilse, 'Several names at once')
  await counted.key('Enter')
  for (const name of ['Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes', 'Aroha Pene', 'Declan Furey'])
    await expect(lane(ilse, name)).toBeInViewport()
  await expect(ilse.getByPlaceholder('Add a person, team, address')).toHaveValue('Nobody Atall')
  await counted.press(ilse.getByLabel('Title', { exact: true }))
  await ilse.keyboard.type(title)

  // Their hours do not meet: one press of what would help, and one of a time; the board goes where it is.
  await counted.press(ilse.getByRole('group', { name: 'What would help' }).getByRole('button').first())
  const cards = ilse
    .getByRole('list', { name: 'Times that work, best first' })
    .getByRole('listitem')
    .locator('button:first-child')
  await counted.press(cards.last())
  await expect(ilse.locator('.over-frame .frame')).toBeInViewport({ ratio: 1 })

  // A room in each of two cities is offered without looking for it.
  const free = ilse.getByRole('group', { name: 'Places free then' })
  const [home, away] = [free.getByRole('button').nth(0), free.getByRole('button').nth(1)]
  await expect(away).toContainText(/seats, \w/)
  const names = [await home.textContent(), await away.textContent()].map((text) =>
    text?.split(/\d/)[0]?.trim(),
  )
  await counted.press(home)
  await expect(home).toHaveAttribute('aria-pressed', 'true')
  await counted.press(away)
  for (const name of names) await expect(lane(ilse, name ?? '')).toBeInViewport()
  await counted.press(ilse.getByRole('button', { name: 'add text' }))
  await ilse.keyboard.type('Snow so far, and what the stations need')
  await counted.press(ilse.getByRole('button', { name: 'Send 5 invitations…' }))
  await expectAccessible(ilse, 'Before it goes')
  await counted.press(
    ilse.getByRole('button', { name: `Send 5 invitations and take ${names[0]} and ${names[1]}` }),
  )
  expect(counted.presses).toBeLessThanOrEqual(MOST_PRESSES)
  const sheet = sheetOf(ilse, title)
  await expect(sheet).toContainText('Snow so far, and what the stations need')
  for (const name of names) await expect(sheet).toContainText(name ?? '')
  // Where it is another day, the day is said.
  await expect(sheet.getByRole('listitem').filter({ hasText: 'Aroha Pene' })).toContainText(
    /\w{3} \d+ \w{3} \d\d:\d\d to/,
  )
})

test('a week of small things: a fortnightly series without one date, a colleague beside mine, titles for one person, a file, a feed, something of long ago', async ({
  browser,
}) => {
  const round = 'Hut round'
  const wanjiru = await signIn(browser, 'Wanjiru Kamande')

  // Every two weeks, but not over the turn of the year.
  await arrangeWith(wanjiru, ['Matteo Ruprechter'])
  await wanjiru.getByLabel('Title', { exact: true }).fill(round)
  await more(wanjiru)
  await wanjiru.getByRole('button', { name: /repeat|series/i }).click()
  const series = sheetOf(wanjiru, 'A series')
  await series.getByLabel('How often').selectOption('2 week')
  await expect(series.getByRole('button', { name: 'Make 6 dates and send 1 invitation' })).toBeEnabled()
  const out = series.getByRole('button', { name: /^Leave out: / }).nth(2)
  const day = /: \w+ (\d+ \w+)/.exec((await out.getAttribute('aria-label')) ?? '')?.[1] ?? ''
  await out.click()
  await expect(series.getByText('left out')).toBeVisible()
  await expectAccessible(wanjiru, 'A series with a date left out')
  await series.getByRole('button', { name: 'Make 5 dates and send 1 invitation' }).click()
  await expect(sheetOf(wanjiru, round)).toContainText(new RegExp(`not on \\w+ ${day}`))

  // Whoever is invited sees that it repeats, until when, and which dates collide with their own time.
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  const card = matteo.getByRole('listitem').filter({ has: matteo.getByRole('button', { name: round }) })
  await expect(card.first()).toBeVisible()
  const opener = card.getByRole('button', { name: 'Answer…' })
  if (await opener.isVisible()) await opener.click()
  await expect(card).toContainText('5 dates are to come, the last on')
  await expect(card).toContainText(/None of them collides|collides? with your own time/)
  await expectAccessible(matteo, 'An invitation to a series')

  // A colleague beside mine; a team as one lane, that opens.
  await wanjiru.keyboard.press('Escape')
  await wanjiru.getByRole('link', { name: 'My time' }).click()
  await wanjiru.getByRole('button', { name: /Somebody’s time beside mine/ }).click()
  const search = wanjiru.getByPlaceholder('Add a person, team, address')
  await search.fill('Matteo')
  await wanjiru.getByRole('option', { name: /Matteo Ruprechter/ }).click()
  await search.fill('Avalanche')
  await wanjiru.getByRole('option', { name: /team of/ }).click()
  const beside = wanjiru.getByRole('list', { name: 'Whose time stands beside mine' })
  await expect(beside).toContainText('Avalanche Forecast team of')
  const days = wanjiru.getByRole('grid', { name: 'My days' })
  await expect(days.getByRole('gridcell', { name: /^Matteo Ruprechter, / }).first()).toBeVisible()
  await expect(days.getByRole('gridcell', { name: /^Avalanche Forecast, / }).first()).toBeVisible()
  await wanjiru.getByRole('button', { name: /Avalanche Forecast, a row each/ }).click()
  await expect(days.getByRole('gridcell', { name: /^Catalina Reyes, / }).first()).toBeVisible()
  await wanjiru.getByRole('button', { name: 'Hide Avalanche Forecast' }).click()
  await expect(days.getByRole('gridcell', { name: /^Catalina Reyes, / })).toHaveCount(0)
  await wanjiru.keyboard.press('Escape')

  // Titles for one person, in one act; a notice says so, once.
  await matteo.goto(`${MARMOT}/settings?part=sharing`)
  await matteo.getByPlaceholder('Add a person, team, address').fill('Wanjiru')
  await matteo.getByRole('option', { name: /Wanjiru Kamande/ }).click()
  await matteo.getByLabel('What Wanjiru Kamande sees').selectOption('headlines')
  await matteo.getByRole('button', { name: 'Share with Wanjiru Kamande' }).click()
  await wanjiru.getByRole('link', { name: 'Now' }).click()
  await expect(wanjiru.getByText('Matteo Ruprechter now lets you see headlines')).toHaveCount(1)

  // A file, brought in after a look at it.
  await wanjiru.goto(`${MARMOT}/settings?part=files`)
  const text =
    'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:course@lodestar.example\r\nDTSTART;TZID=Africa/Nairobi:20261125T160000\r\nDURATION:PT1H\r\nSUMMARY:Crevasse course\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n'
  await wanjiru
    .getByLabel('iCalendar file')
    .setInputFiles({ name: 'course.ics', mimeType: 'text/calendar', buffer: Buffer.from(text) })
  await wanjiru.getByRole('button', { name: 'Import 1 entry' }).click()
  await expect(wanjiru.getByText('Imported 1 new entry, 0 changed')).toBeVisible()

  // A guest's free/busy: it lies beside my time at once, and counts when I arrange with them.
  await wanjiru.goto(`${MARMOT}/settings?part=feeds`)
  await wanjiru.getByLabel('Name').fill('Mira at Lodestar')
  await wanjiru.getByLabel('Address of a calendar').fill(`${PARTNER}/free-busy.ics`)
  await wanjiru.getByLabel('Whose time it is').selectOption('guest')
  await wanjiru.getByLabel('Their e-mail address').fill(GUEST)
  await expectAccessible(wanjiru, 'A feed of a guest')
  await wanjiru.getByRole('button', { name: 'Read this calendar' }).click()
  await expect(wanjiru.getByText(/Mira at Lodestar: \d+ dates, now beside your own time/)).toBeVisible()
  await wanjiru.getByRole('link', { name: 'My time' }).click()
  await expect(days.getByRole('gridcell', { name: /^Mira at Lodestar, / }).first()).toBeVisible()
  await expect(days.getByTitle(/16:00 to 17:00, Crevasse course/)).toBeVisible()
  await wanjiru.getByRole('link', { name: 'Arrange' }).click()
  await wanjiru.getByPlaceholder('Add a person, team, address').fill(`Mira Solberg <${GUEST}>`)
  await wanjiru.getByRole('option', { name: /as a guest/ }).click()
  await wanjiru.getByRole('list', { name: 'Times that work, best first' }).getByRole('button').first().click()
  await expect(lane(wanjiru, 'Mira Solberg')).toHaveAccessibleName(/, free/)

  // Something of long ago, by its title.
  const { occurrences } = await (
    await wanjiru.request.get(`${MARMOT}/api/entries?from=2026-10-05T00:00:00Z&to=2026-11-14T00:00:00Z`)
  ).json()
  const past = occurrences.find((one: { meeting: boolean; repeats: boolean }) => one.meeting && !one.repeats)
  await wanjiru.keyboard.press('Escape')
  await wanjiru.keyboard.press('Control+k')
  const find = wanjiru.getByRole('dialog', { name: 'Find' })
  await expect(find.getByRole('combobox')).toBeFocused()
  await wanjiru.keyboard.type(past.title)
  await find.getByRole('option', { name: 'All of them in a list' }).click()
  await expect(wanjiru.getByRole('button', { name: new RegExp(past.title) }).first()).toBeVisible()
})

test('on paper: my week has its dates, its lanes, and nothing to press', async ({ browser }) => {
  const ilse = await openMyTime(browser, 'Ilse Brandacher')
  const title = ilse.getByText('Ilse Brandacher, Mon 23 Nov to Sun 29 Nov 2026')
  await expect(title).toBeHidden()
  await ilse.emulateMedia({ media: 'print', colorScheme: 'dark' })
  await expect(title).toBeVisible()
  await expect(ilse.getByRole('link', { name: 'Arrange' })).toBeHidden()
  await expect(ilse.getByRole('button', { name: 'New entry' })).toBeHidden()
  await expect(ilse.getByRole('gridcell', { name: /^Friday 27 November/ })).toBeVisible()
  const colour = (selector: string) =>
    ilse
      .locator(selector)
      .first()
      .evaluate((element) => getComputedStyle(element).backgroundColor)
  expect([await colour('body'), await colour('.stint-busy')]).toEqual(['rgb(255, 255, 255)', 'rgb(0, 0, 0)'])
  // A page of A4 across holds the week.
  const pages = (await ilse.pdf({ preferCSSPageSize: true })).toString('latin1').match(/\/Type \/Page\b/g)
  expect(pages).toHaveLength(1)
})
