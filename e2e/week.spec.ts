import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { expectAccessible, expectNoSideways, openMyTime, sheetOf, signIn, tabTo } from './person.ts'
import { MARMOT, PARTNER, PORTS } from './ports.ts'

const blocks = (page: Page, title: string) => page.locator(`.stint[title*="${title}"]`)

/** Drags from the middle of one thing by so many pixels. */
const drag = async (page: Page, from: Locator, by: { x: number; y: number }, grip = 0.5) => {
  const box = await from.boundingBox()
  if (!box) throw new Error('nothing to drag')
  const at = { x: box.x + box.width * grip, y: box.y + box.height / 2 }
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + by.x / 2, at.y + by.y / 2, { steps: 4 })
  await page.mouse.move(at.x + by.x, at.y + by.y, { steps: 4 })
  await page.mouse.up()
}

/** Presses a key until something is there, letting the page draw after each press. */
const pressUntil = async (page: Page, key: string, there: Locator): Promise<void> => {
  for (let i = 0; i < 60 && !(await there.isVisible()); i++) {
    await page.keyboard.press(key)
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
  }
}

test('a week’s work by mouse: make, repeat, except, move one, move the following, stretch, delete, undo', async ({
  browser,
}) => {
  const page = await openMyTime(browser, 'Aroha Pene')
  await page.getByRole('button', { name: 'New entry' }).click()
  const sheet = sheetOf(page, 'New entry')
  await sheet.getByLabel('Title').fill('Radar bench')
  await sheet.getByLabel('Day', { exact: true }).fill('28 nov')
  await sheet.getByLabel('From').fill('17:00')
  await sheet.getByLabel('Until, or length').fill('1h')
  await sheet.getByLabel('Repeats').selectOption('DAILY')
  await sheet.getByLabel('Until when').selectOption('count')
  await sheet.getByLabel('How many times').fill('9')
  await expect(sheet.getByTestId('rule-words')).toContainText('Every day, 9 times')
  await expect(sheet.getByTestId('rule-words')).toContainText('Next: Sat 28 Nov · Sun 29 Nov · Mon 30 Nov')
  await sheet.getByLabel('Not on').fill('29 nov')
  await sheet.getByLabel('Not on').press('Enter')
  await expect(sheet.getByTestId('rule-words')).toContainText('Next: Sat 28 Nov · Mon 30 Nov')
  await sheet.getByText('Description, category').click()
  await sheet.getByRole('textbox', { name: 'Description' }).fill('Bring the long antenna')
  await expectAccessible(page, 'A new series')
  await sheet.getByRole('button', { name: 'Add it' }).click()
  await expect(blocks(page, 'Radar bench')).toHaveCount(1)
  await expect(sheet).toBeHidden()
  await page.getByRole('button', { name: '4 weeks' }).click()
  await expect(blocks(page, 'Radar bench')).toHaveCount(8)

  // One date is moved by itself, an hour later and a day further.
  await page.getByRole('button', { name: 'Week', exact: true }).click()
  await page.getByRole('button', { name: 'Later' }).click()
  await expect(blocks(page, 'Radar bench')).toHaveCount(7)
  const wednesday = page.locator('[data-row]').nth(2).locator('.stint[title*="Radar bench"]')
  const hour = (await wednesday.boundingBox())?.width ?? 0
  await drag(page, wednesday, { x: 2 * hour, y: 0 })
  const question = sheetOf(page, 'Move Radar bench')
  await expect(question).toContainText('Wednesday 2 December, 19:00 to 20:00, in 9 days')
  await question.getByRole('button', { name: 'Move', exact: true }).click()
  await expect(page.getByTitle('19:00 to 20:00, Radar bench')).toHaveCount(1)
  await expect(question).toBeHidden()

  // This and the following, by stretching its end; what was moved by itself is said first and left as it is.
  const tuesday = page.locator('[data-row]').nth(1).locator('.stint[title*="Radar bench"]')
  const width = (await tuesday.boundingBox())?.width ?? 0
  await drag(page, tuesday, { x: width / 2, y: 0 }, 0.97)
  await expect(question).toContainText('Tuesday 1 December, 17:00 to 18:30')
  await question.getByLabel('This and the following').check()
  await expect(question.getByText('left as they are: Wed 2 Dec')).toBeVisible()
  await expectAccessible(page, 'Which dates are moved')
  await question.getByRole('button', { name: 'Move', exact: true }).click()
  await expect(page.getByTitle('17:00 to 18:30, Radar bench')).toHaveCount(5)
  await expect(question).toBeHidden()
  await expect(page.getByTitle('17:00 to 18:00, Radar bench')).toHaveCount(1)

  // Deleted from a date on, and taken back step by step.
  await page.getByTitle('17:00 to 18:30, Radar bench').nth(2).click()
  const open = sheetOf(page, 'Radar bench')
  await expect(open.getByRole('document', { name: 'Description' })).toContainText('Bring the long antenna')
  await open.getByRole('button', { name: 'Delete…' }).click()
  await open.getByLabel('This and the following').check()
  await open.getByRole('button', { name: 'Delete from here on' }).click()
  await expect(blocks(page, 'Radar bench')).toHaveCount(4)
  await expect(open).toBeHidden()
  await page.keyboard.press('Control+z')
  await expect(blocks(page, 'Radar bench')).toHaveCount(7)
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('17:00 to 18:30, Radar bench')).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('17:00 to 18:00, Radar bench')).toHaveCount(7)
})

test('a week’s work by keyboard alone', async ({ browser }) => {
  const page = await openMyTime(browser, 'Wanjiru Kamande')
  await page.keyboard.press('a')
  await page.keyboard.type('Rope check every tue 13:00 45m at store')
  await expect(
    page.getByText('Tuesday 24 November, 13:00 to 13:45, tomorrow · 45 min · Every week on Tuesday'),
  ).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(blocks(page, 'Rope check')).toHaveCount(1)
  await page.keyboard.press('a')
  await page.keyboard.type('Tent airing sat 8:00 1h')
  await page.keyboard.press('Enter')
  await expect(page.getByTitle('08:00 to 09:00, Tent airing')).toBeVisible()

  // n goes from entry to entry; v takes one up, arrows move it, Shift stretches it, Enter puts it down.
  const saturday = page.getByRole('gridcell', { name: /^Saturday 28 November, 08:00/ })
  await pressUntil(page, 'n', saturday)
  await page.keyboard.press('v')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByTitle('08:30 to 09:45, Tent airing')).toBeVisible()
  await expect(page.getByRole('gridcell', { name: /^Sunday 29 November, 08:30 to 09:45/ })).toHaveCount(1)
  await expect(saturday).toHaveCount(0)

  // The series: one date gets another title, and the rest goes on.
  await page.keyboard.press('Escape')
  await expect(page.getByRole('gridcell', { name: /^Sunday 29 November, no time chosen/ })).toBeFocused()
  await page.keyboard.press('t')
  const tuesday = page.getByRole('gridcell', { name: /^Tuesday 24 November, 13:00 to 13:45/ })
  await pressUntil(page, 'n', tuesday)
  await page.keyboard.press('Enter')
  const sheet = sheetOf(page, 'Rope check')
  await expect(sheet.getByRole('button', { name: 'Change…' })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(sheet.getByLabel('Title')).toBeFocused()
  await page.keyboard.press('Control+a')
  await page.keyboard.type('Rope check, long ropes')
  await page.keyboard.press('Enter')
  await expect(blocks(page, 'Rope check, long ropes')).toHaveCount(1)
  await expect(sheet).toBeHidden()
  await page.keyboard.press('m')
  await expect(blocks(page, 'Rope check')).toHaveCount(4)

  // One date is left out; one is moved by itself; from another on all are moved.
  await page.keyboard.press('w')
  await page.keyboard.press('t')
  await pressUntil(page, 'n', page.getByRole('gridcell', { name: /^Tuesday 1 December, 13:00 to 13:45/ }))
  await page.keyboard.press('Delete')
  await tabTo(page, sheet.getByRole('button', { name: 'Delete this date' }))
  await page.keyboard.press('Enter')
  await expect(blocks(page, 'Rope check')).toHaveCount(0)
  await expect(sheet).toBeHidden()
  const take = async (date: RegExp, ...keys: string[]) => {
    await pressUntil(page, 'n', page.getByRole('gridcell', { name: date }))
    for (const key of ['v', ...keys, 'Enter']) await page.keyboard.press(key)
  }
  const question = sheetOf(page, 'Move Rope check')
  await take(/^Tuesday 8 December, 13:00 to 13:45/, 'ArrowRight', 'ArrowRight')
  await expect(question).toContainText('Tuesday 8 December, 13:30 to 14:15')
  await expect(question.getByRole('button', { name: 'Move', exact: true })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByTitle('13:30 to 14:15, Rope check')).toHaveCount(1)
  await expect(question).toBeHidden()
  await take(/^Tuesday 15 December, 13:00 to 13:45/, 'ArrowRight')
  await expect(question).toContainText('Tuesday 15 December, 13:15 to 14:00')
  await tabTo(page, question.getByRole('radio', { name: 'This date only' }))
  await page.keyboard.press('ArrowDown')
  await expect(question.getByRole('radio', { name: 'This and the following' })).toBeChecked()
  await page.keyboard.press('Enter')
  await expect(page.getByTitle('13:15 to 14:00, Rope check')).toHaveCount(1)
  await expect(question).toBeHidden()
  await page.keyboard.press('t')
  await page.keyboard.press('x')
  await expect(page.getByTitle('13:15 to 14:00, Rope check')).toHaveCount(3)

  // Step by step it is all taken back; what is deleted comes back the same way.
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('13:00 to 13:45, Rope check')).toHaveCount(4)
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('13:00 to 13:45, Rope check')).toHaveCount(5)
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('13:00 to 13:45, Rope check')).toHaveCount(6)
  await page.keyboard.press('w')
  await page.keyboard.press('t')
  await pressUntil(page, 'n', page.getByRole('gridcell', { name: /08:30 to 09:45.*Tent airing/ }))
  await page.keyboard.press('Delete')
  await expect(blocks(page, 'Tent airing')).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(blocks(page, 'Tent airing')).toHaveCount(1)

  // The list; a date by typing; today by t.
  await page.keyboard.press('w')
  await page.keyboard.press('l')
  await expect(page.getByRole('table')).toContainText('Tent airing')
  await expectAccessible(page, 'The list')
  await page.keyboard.press('l')
  await tabTo(page, page.getByLabel('Go to a date'))
  await page.keyboard.type('2027-02-01')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('gridcell', { name: /^Monday 1 February 2027/ })).toBeVisible()
  await page.locator('#main').focus()
  await page.keyboard.press('t')
  await expect(page.getByRole('gridcell', { name: /^Monday 23 November/ })).toBeVisible()
  await page.keyboard.press('y')
  await expect(page.getByText('23 today')).toBeVisible()
  await expectAccessible(page, 'A year')
})

test('a colleague’s time is laid beside mine and over it, and kept for next time', async ({ browser }) => {
  const page = await openMyTime(browser, 'Tashi Lhendup')
  await page.getByRole('button', { name: /Somebody’s time beside mine/ }).click()
  await page.getByPlaceholder('Add a person, team, address').fill('Wanjiru')
  await page.getByRole('option', { name: /Wanjiru Kamande/ }).click()
  const layers = page.getByRole('list', { name: 'Whose time stands beside mine' })
  await expect(layers).toContainText('Wanjiru Kamande headlines')
  await expect(page.getByRole('gridcell', { name: /^Wanjiru Kamande, Mon 23 Nov/ })).toBeVisible()
  await page.getByRole('button', { name: 'over mine' }).click()
  await expect(page.locator('.strip').first()).toHaveAttribute('title', /^Wanjiru Kamande: /)
  await expect(page.getByRole('gridcell', { name: /^Wanjiru Kamande, Mon/ })).toHaveCount(0)
  await page.getByRole('button', { name: 'Keep these under a name' }).click()
  await page.getByLabel('Name for these').fill('Gauges')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Kept as: Gauges' })).toBeVisible()
  await page.reload()
  await page.getByRole('button', { name: /Somebody’s time beside mine/ }).click()
  await expect(layers).toContainText('Wanjiru Kamande')
  await layers.getByRole('button', { name: 'Hide Wanjiru Kamande' }).click()
  await expect(page.locator('.strip')).toHaveCount(0)
  await layers.getByRole('button', { name: 'Remove Wanjiru Kamande' }).click()
  await expect(layers.getByRole('listitem')).toHaveCount(0)
})

test('sharing more is seen at once on the other side, by a notice and in the lanes', async ({ browser }) => {
  const tashi = await signIn(browser, 'Tashi Lhendup')
  const matteo = await openMyTime(browser, 'Matteo Ruprechter')
  await matteo.getByRole('button', { name: /Somebody’s time beside mine/ }).click()
  await matteo.getByPlaceholder('Add a person, team, address').fill('Tashi')
  await matteo.getByRole('option', { name: /Tashi Lhendup/ }).click()
  const layers = matteo.getByRole('list', { name: 'Whose time stands beside mine' })
  await expect(layers).toContainText('busy times')

  await tashi.goto(`${MARMOT}/settings?part=sharing`)
  await tashi.getByPlaceholder('Add a person, team, address').fill('Matteo')
  await tashi.getByRole('option', { name: /Matteo Ruprechter/ }).click()
  await tashi.getByLabel('What Matteo Ruprechter sees').selectOption('everything')
  await expectAccessible(tashi, 'Sharing')
  // Nothing is given before it is confirmed.
  await expect(layers).toContainText('busy times')
  await tashi.getByRole('button', { name: /^(Share with Matteo Ruprechter|Save)$/ }).click()
  await expect(layers).toContainText('Tashi Lhendup everything')
  await expect(matteo.locator('.row[data-still] .stint[title*="Station"]').first()).toBeVisible()
  await tashi
    .getByRole('row', { name: /Matteo Ruprechter/ })
    .getByRole('button', { name: 'See it as they do' })
    .click()
  await expect(sheetOf(tashi, /as Matteo Ruprechter sees it/)).toContainText(
    'They see everything and may only look',
  )
  await tashi.keyboard.press('Escape')
  await matteo.getByRole('link', { name: 'Now' }).click()
  await expect(matteo.getByText('Tashi Lhendup now lets you see everything')).toBeVisible()
  await tashi.keyboard.press('Control+z')
  await expect(tashi.getByLabel('What Matteo Ruprechter sees')).toHaveCount(0)
})

test('a stand-in works in the other’s calendar, and the owner sees what was done', async ({ browser }) => {
  const ilse = await openMyTime(browser, 'Ilse Brandacher')
  await ilse.getByLabel('Whose time').selectOption({ label: 'Henrike Aasland, as stand-in' })
  await expect(ilse.getByRole('grid', { name: 'Days of somebody else' })).toBeVisible()
  await expect(ilse.getByLabel('Write an entry in one line')).toBeVisible()
  await ilse.keyboard.press('a')
  await ilse.keyboard.type('Minister’s visit sat 9:00 1h')
  await ilse.keyboard.press('Enter')
  await ilse.getByTitle('09:00 to 10:00, Minister’s visit').click()
  await expect(sheetOf(ilse, 'Minister’s visit')).toContainText(
    'You act for Henrike Aasland, who is told of it.',
  )
  await ilse.keyboard.press('Escape')

  const henrike = await signIn(browser, 'Henrike Aasland')
  await expect(henrike.getByText(/Ilse Brandacher made for you: Minister’s visit/)).toBeVisible()
  await henrike.goto(`${MARMOT}/settings?part=sharing`)
  await expect(henrike.getByText('Ilse Brandacher for you')).toBeVisible()
  await expect(henrike.getByLabel('What Ilse Brandacher may do')).toHaveValue('stand-in')
})

test('a file is looked at, imported, found, and taken back; a feed is read and laid beside my time', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Matteo Ruprechter')
  await page.keyboard.press('0')
  await page.getByRole('button', { name: 'Import and export' }).click()
  await expectAccessible(page, 'Import and export')
  const event = (uid: string, ...lines: string[]) => ['BEGIN:VEVENT', `UID:${uid}`, ...lines, 'END:VEVENT']
  const text = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    ...event(
      'saw@lodestar.example',
      'DTSTART;TZID=Europe/Vienna:20261125T100000',
      'DURATION:PT1H',
      'SUMMARY:Saw fitting',
    ),
    ...event('bad@lodestar.example', 'SUMMARY:Without a time'),
    'END:VCALENDAR',
  ].join('\r\n')
  const choose = (name: string, content: string) =>
    page
      .getByLabel('iCalendar file')
      .setInputFiles({ name, mimeType: 'text/calendar', buffer: Buffer.from(content) })
  await choose('lodestar.ics', text)
  await expect(page.getByText('1 new entry, 0 changed, 0 as they are here already, 1 refused.')).toBeVisible()
  await expect(page.getByText('line 9: Without a time: It has no start that can be read.')).toBeVisible()
  await page.getByRole('button', { name: 'Import 1 entry' }).click()
  await expect(page.getByText('Imported 1 new entry, 0 changed')).toBeVisible()
  await choose('lodestar.ics', text)
  await expect(page.getByText('1 as they are here already')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Nothing to import' })).toBeDisabled()
  await choose('photo.ics', 'not a calendar')
  await expect(page.getByRole('alert')).toContainText('This is no iCalendar file')
  await page.getByRole('link', { name: 'My time' }).click()
  await expect(page.getByTitle('10:00 to 11:00, Saw fitting')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByTitle('10:00 to 11:00, Saw fitting')).toBeHidden()

  await page.goto(`${MARMOT}/settings?part=feeds`)
  await page.getByLabel('Name').fill('Lodestar open days')
  await page.getByLabel('Address of a calendar').fill(`${PARTNER}/open-days.ics`)
  await page.getByRole('button', { name: 'Read this calendar' }).click()
  await expect(page.getByText(/\d+ dates, read just now, every 1 h/)).toBeVisible()
  await page.getByLabel('Name').fill('Something inside')
  await page.getByLabel('Address of a calendar').fill(`http://127.0.0.1:${PORTS.marmot}/`)
  await page.getByRole('button', { name: 'Read this calendar' }).click()
  await expect(page.getByText(/127\.0\.0\.1 is on a private network, which is not read/)).toBeVisible()
  await expectAccessible(page, 'Feeds')
  await page.getByRole('link', { name: 'My time' }).click()
  // It lies there at once.
  await expect(page.locator('.stint[title*="Calibration run"]').first()).toBeVisible()
})

test('two who change the same entry are shown both, and nothing is lost', async ({ browser }) => {
  const ilse = await openMyTime(browser, 'Ilse Brandacher')
  const also = await openMyTime(browser, 'Ilse Brandacher')
  await ilse.keyboard.press('a')
  await ilse.keyboard.type('Key handover sat 10:00 30m')
  await ilse.keyboard.press('Enter')
  for (const page of [ilse, also]) await page.getByTitle('10:00 to 10:30, Key handover').click()
  const [mine, theirs] = [sheetOf(ilse, 'Key handover'), sheetOf(also, 'Key handover')]
  for (const sheet of [mine, theirs]) await sheet.getByRole('button', { name: 'Change…' }).click()
  await expect(mine.getByLabel('Title')).toHaveValue('Key handover')
  await theirs.getByLabel('Title').fill('Key handover at the gate')
  await theirs.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(also.getByTitle('10:00 to 10:30, Key handover at the gate')).toBeVisible()
  await mine.getByLabel('Where').fill('Store')
  await mine.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(mine.getByRole('alert')).toContainText('This was changed meanwhile')
  await expect(mine.getByRole('row', { name: /^Title/ })).toContainText('Key handover at the gate')
  await expectAccessible(ilse, 'Mine and theirs')
  await mine.getByRole('button', { name: 'Keep both' }).click()
  await expect(ilse.getByTitle(/10:00 to 10:30, Key handover/)).toHaveCount(2)
})

test('preferences change how days are drawn; a filter stands in the address; all of it fits a phone', async ({
  browser,
}) => {
  const page = await openMyTime(browser, 'Declan Furey')
  await page.keyboard.press('0')
  const sheet = page.getByRole('main')
  await sheet.getByLabel('A week begins on').selectOption('7')
  await sheet.getByLabel('Clock').selectOption('12')
  await sheet.getByLabel('A second zone’s hours beside mine').check()
  await sheet.getByRole('combobox', { name: 'Second zone' }).fill('Europe/Vienna')
  await sheet.getByLabel('A new category').fill('On the ice')
  await sheet.getByRole('button', { name: 'Add', exact: true }).last().click()
  await expect(sheet.getByLabel('Name of On the ice')).toBeVisible()
  await expectAccessible(page, 'Settings')
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Your settings are saved.')).toBeVisible()
  await page.locator('#main').focus()
  await page.keyboard.press('2')
  await expect(page.getByRole('grid', { name: 'My days' })).toBeVisible()
  await page.keyboard.press('w')
  await expect(page.getByRole('gridcell', { name: /^Sunday 22 November/ })).toBeVisible()
  await expect(page.getByText('Vienna UTC+1')).toBeVisible()
  await expect(page.locator('.tick', { hasText: /^9:00 am$/ }).first()).toBeVisible()

  await page.getByRole('button', { name: 'Narrow', exact: true }).click()
  await page.getByLabel('Kind').selectOption('meeting')
  await expect(page).toHaveURL(/kind=meeting/)
  await page.keyboard.press('Escape')
  await expect(page.locator('.stint[data-faint]').first()).toBeVisible()
  await page.getByRole('button', { name: 'List', exact: true }).click()
  await expect(page.getByRole('cell', { name: 'entry', exact: true })).toHaveCount(0)
  await page.reload()
  await expect(page.getByRole('cell', { name: /^meeting/ }).first()).toBeVisible()

  const phone = await signIn(browser, 'Declan Furey', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  for (const path of [
    '/time',
    '/time?view=year',
    '/time?view=list',
    '/people',
    '/settings',
    '/settings?part=feeds',
    '/settings?part=files',
  ]) {
    await phone.goto(`${MARMOT}${path}`)
    await expect(phone.getByRole('heading', { level: 1 })).toBeAttached()
    await phone.waitForLoadState('networkidle')
    await expectNoSideways(phone)
    await expectAccessible(phone, `${path} on a phone`)
  }
})
