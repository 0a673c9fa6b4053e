import { expect } from '@playwright/test'
import { test } from './journey.ts'
import { expectAccessible, expectNoSideways, lane, openMyTime, sendAs, sheetOf, signIn } from './person.ts'
import { MARMOT } from './ports.ts'

test('an entry is drawn, typed exactly, dragged, deleted, and each step taken back', async ({ browser }) => {
  const page = await signIn(browser, 'Ilse Brandacher')
  await page.getByRole('link', { name: 'My time' }).click()
  const saturday = page.getByRole('gridcell', { name: /^Saturday 28 November/ })
  await expect(saturday).toBeVisible()
  await expect(page.getByTitle(/Post and travel/).first()).toBeVisible()
  await expectAccessible(page, 'My time')
  const box = await saturday.boundingBox()
  if (!box) throw new Error('no lane')
  const at = (share: number) => ({ x: box.x + box.width * share, y: box.y + box.height / 2 })
  await page.mouse.move(at(0.3).x, at(0.3).y)
  await page.mouse.down()
  await page.mouse.move(at(0.4).x, at(0.4).y, { steps: 6 })
  await page.mouse.up()
  const sheet = page.getByRole('dialog', { name: 'New entry' })
  await expect(sheet.getByLabel('Title')).toBeFocused()
  await page.keyboard.type('Core freezer defrost')
  await sheet.getByLabel('From').fill('10:45')
  await sheet.getByLabel('Until, or length').fill('45m')
  await expect(sheet.getByRole('status')).toHaveText(
    'Saturday 28 November, 10:45 to 11:30, in 5 days · 45 min',
  )
  await expectAccessible(page, 'An entry')
  // A later beginning takes the end along; nearly a day is asked about; what is half typed is offered again.
  await sheet.getByLabel('Until, or length').fill('11:30')
  await sheet.getByLabel('From').fill('12:45')
  await expect(sheet.getByLabel('Until, or length')).toHaveValue('13:30')
  await sheet.getByLabel('Until, or length').fill('12:30')
  await expect(sheet.getByText('That is 23 h 45 long. Is it meant to be?')).toBeVisible()
  await expect(sheet.getByRole('button', { name: 'Add it' })).toBeDisabled()
  await sheet.getByRole('button', { name: 'Leave it' }).click()
  await page.keyboard.press('c')
  await expect(sheet.getByText('You were writing “Core freezer defrost”')).toBeVisible()
  await sheet.getByRole('button', { name: 'Go on with it' }).click()
  await expect(sheet.getByLabel('Title')).toHaveValue('Core freezer defrost')
  await sheet.getByLabel('Until, or length').fill('45m')
  await sheet.getByLabel('From').fill('25:00')
  await expect(sheet.getByText('not a time: try 10:45')).toBeVisible()
  await sheet.getByLabel('From').fill('10:45')
  await page.keyboard.press('Enter')
  const entry = page.getByTitle('10:45 to 11:30, Core freezer defrost')
  await expect(entry).toBeVisible()

  await expect(sheet).toBeHidden()
  const from = await entry.boundingBox()
  if (!from) throw new Error('no entry')
  const hour = (from.width / 45) * 60
  await page.mouse.move(from.x + 20, from.y + 20)
  await page.mouse.down()
  await page.mouse.move(from.x + 20 + hour, from.y + 20, { steps: 6 })
  await expect(page.locator('.drag-words')).toHaveText('Saturday 28 November, 11:45 to 12:30, in 5 days')
  await page.mouse.up()
  await expect(page.getByTitle('11:45 to 12:30, Core freezer defrost')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(entry).toBeVisible()

  await entry.click()
  const read = page.getByRole('dialog', { name: 'Core freezer defrost' })
  await expect(read).toContainText('Saturday 28 November, 10:45 to 11:30, in 5 days')
  await read.getByRole('button', { name: 'Delete…' }).click()
  await read.getByRole('button', { name: 'Delete it' }).click()
  await expect(entry).toBeHidden()
  await page.getByRole('button', { name: 'Undo' }).first().click()
  await expect(entry).toBeVisible()
})

test('a time that the clocks skip moves on, and the screen says so', async ({ browser }) => {
  const page = await signIn(browser, 'Matteo Ruprechter')
  await page.getByRole('link', { name: 'My time' }).click()
  await expect(page.getByRole('grid', { name: 'My days' })).toBeVisible()
  await page.keyboard.press('c')
  const sheet = page.getByRole('dialog', { name: 'New entry' })
  await sheet.getByLabel('Title').fill('Night reading')
  await sheet.getByLabel('Day', { exact: true }).fill('2027-03-28')
  await sheet.getByLabel('From').fill('2:30')
  await sheet.getByLabel('Until, or length').fill('30m')
  await expect(sheet.getByText('The clocks skip 2:30 that day, so it starts at 03:30.')).toBeVisible()
  await sheet.getByRole('button', { name: 'Add it' }).click()
  await expect(page.getByText('The clocks skip that time, so it starts at 03:30.')).toBeVisible()
})

test('a wrong password and a broken link say so in words', async ({ browser }) => {
  const page = await (await browser.newContext()).newPage()
  await page.goto(MARMOT)
  await page.getByLabel('Address').fill('ilse.brandacher@corrie.example')
  await page.getByLabel('Password').fill('guess')
  await page.getByRole('button', { name: 'Sign in', exact: true }).click()
  await expect(page.getByRole('alert')).toHaveText('That address and password do not belong together.')
  await page.goto(`${MARMOT}/i/${'x'.repeat(43)}`)
  await expect(page.getByRole('heading', { name: 'This link does not open an invitation' })).toBeVisible()
  await expectAccessible(page, 'A broken link')
})

test('Ctrl K finds a person and does what has a key; the light can be chosen', async ({ browser }) => {
  const page = await signIn(browser, 'Catalina Reyes')
  await page.keyboard.press('Control+k')
  const list = page.getByRole('dialog', { name: 'Find' })
  await expect(list.getByRole('combobox')).toBeFocused()
  await expectAccessible(page, 'Find')
  await page.keyboard.type('tashi')
  await expect(list.getByRole('option', { name: /Tashi Lhendup/ })).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(lane(page, 'Tashi Lhendup')).toBeVisible()
  await expect(list).toBeHidden()
  await page.keyboard.press('Control+k')
  await expect(list.getByRole('combobox')).toBeFocused()
  await page.keyboard.type('my time')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('grid', { name: 'My days' })).toBeVisible()
  await expect(page.getByRole('complementary', { name: 'This meeting' })).toContainText('1 other')

  await page.getByRole('button', { name: /settings, light, keys, sign out$/ }).click()
  await page.getByRole('menuitem', { name: 'Light: as the system' }).click()
  await expect(page.locator('html')).toHaveAttribute('data-light', 'dusk')
  await page.keyboard.press('Escape')
  await expectAccessible(page, 'My time at dusk')
  await page.reload()
  await expect(page.locator('html')).toHaveAttribute('data-light', 'dusk')
  await page.getByRole('link', { name: 'Arrange' }).click()
  await expect(lane(page, 'Tashi Lhendup')).toBeVisible()
  await expectAccessible(page, 'Arrange at dusk')
})

test('every screen works at phone width, by touch', async ({ browser }) => {
  const page = await signIn(browser, 'Ilse Brandacher', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  await expectNoSideways(page)
  for (const name of ['My time', 'Places', 'Arrange']) {
    await page.getByRole('link', { name }).tap()
    await expect(page.getByRole('grid').first()).toBeVisible()
    await expectNoSideways(page)
    await expectAccessible(page, `${name} on a phone`)
  }
  await page.getByPlaceholder('Add a person, team, address').fill('Tashi')
  await page.getByRole('option', { name: /Tashi/ }).tap()
  // Kathmandu's day hardly meets Innsbruck's; where it does not, what would help is pressed first.
  // The tray is a line that unfolds.
  await page
    .getByRole('region', { name: 'This meeting' })
    .getByRole('button', { expanded: false })
    .first()
    .tap()
  const cards = page.getByRole('list', { name: 'Times that work, best first' }).getByRole('button')
  const help = page.getByRole('group', { name: 'What would help' }).getByRole('button')
  await expect(cards.first().or(help.first()).first()).toBeVisible()
  if (!(await cards.first().isVisible())) await help.first().tap()
  await cards.first().tap()
  await expect(page.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/)).toBeVisible()
})

test('anything is found by its words: a meeting, an entry, a day, a place; the list has the same field', async ({
  browser,
}) => {
  const title = 'Karling survey'
  const page = await signIn(browser, 'Ilse Brandacher')
  await sendAs(page, { title, starts: '2026-12-09T16:00', names: ['Tashi Lhendup'] })
  const find = page.getByRole('dialog', { name: 'Find' })
  const type = async (words: string) => {
    // Keys are the sheet's for as long as one is open.
    await expect(page.getByRole('dialog')).toHaveCount(0)
    await page.keyboard.press('Control+k')
    await expect(find.getByRole('combobox')).toBeFocused()
    await page.keyboard.type(words)
  }
  await type('karl tashi')
  await expect(find.getByRole('option').first()).toContainText(`${title}Wed 9 Dec, 16:00 to 17:00`)
  await expectAccessible(page, 'What was found')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('dialog', { name: title })).toContainText(
    'Wednesday 9 December, 16:00 to 17:00',
  )
  await page.keyboard.press('Escape')

  await type('next tue')
  await expect(find.getByRole('option').first()).toContainText('Tuesday 1 December')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('gridcell', { name: /^Tuesday 1 December/ })).toBeVisible()

  await type('serac')
  await expect(find.getByRole('option').first()).toContainText('Serac')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: /Serac/ })).toBeVisible()
  await page.keyboard.press('Escape')

  await type('karlin')
  await find.getByRole('option', { name: 'All of them in a list' }).click()
  await expect(page.getByRole('searchbox', { name: 'Find in all days' })).toHaveValue('karlin')
  await expect(page.getByRole('button', { name: new RegExp(title) })).toBeVisible()
  await page.getByRole('searchbox', { name: 'Find in all days' }).fill('zzzzqq')
  await expect(page.getByText('Fewer letters find more')).toBeVisible()
  await expectAccessible(page, 'The list that is looked through')

  const wanjiru = await signIn(browser, 'Wanjiru Kamande')
  await wanjiru.keyboard.press('Control+k')
  await expect(wanjiru.getByRole('dialog', { name: 'Find' }).getByRole('combobox')).toBeFocused()
  await wanjiru.keyboard.type('zzzz')
  await expect(wanjiru.getByText('Nothing was found. You can look for')).toBeVisible()
})

test('people beside mine are put into what I drew, and it becomes a meeting through the last look', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Henrike Aasland')
  await page.getByRole('link', { name: 'My time' }).click()
  await page.getByRole('button', { name: /Somebody’s time beside mine/ }).click()
  await page.getByPlaceholder('Add a person, team, address').fill('Wanjiru')
  await page.getByRole('option', { name: /Wanjiru Kamande/ }).click()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.keyboard.press('c')
  const sheet = page.getByRole('dialog', { name: 'New entry' })
  await sheet.getByLabel('Title').fill('Gauge budget')
  await sheet.getByLabel('Day', { exact: true }).fill('28 nov')
  await sheet.getByLabel('From').fill('10:00')
  await sheet.getByRole('button', { name: 'with Wanjiru Kamande' }).click()
  await sheet.getByRole('button', { name: 'Save, and look over the invitation…' }).click()
  const look = page.getByRole('dialog', { name: 'Invite people to Gauge budget' })
  await expect(look.getByText('is invited')).toBeVisible()
  await expectAccessible(page, 'Inviting to an entry')
  // Nobody was told as yet: it can be left an entry of one's own.
  await look.getByRole('button', { name: 'Leave it as it is' }).click()
  await page.getByTitle('10:00 to 10:30, Gauge budget').click()
  const read = page.getByRole('dialog', { name: 'Gauge budget' })
  await read.getByRole('button', { name: 'Invite people…' }).click()
  await look.getByPlaceholder('Add a person, team, address').fill('Matteo')
  await page.getByRole('option', { name: /Matteo Ruprechter/ }).click()
  await look.getByRole('button', { name: 'Send 1 invitation' }).click()
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  await expect(matteo.getByRole('button', { name: 'Gauge budget' })).toBeVisible()
})

test('People says who is where and free; one presses a lane’s menu to see their time, or to arrange', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Matteo Ruprechter')
  await page.getByRole('link', { name: 'People' }).click()
  const grid = page.getByRole('grid', { name: 'Everybody today' })
  await expect(grid).toContainText(/Kathmandu 1\d:\d\d, UTC\+5:45/)
  await expect(grid.getByRole('gridcell', { name: /^Ilse Brandacher, \d\d:\d\d there, / })).toBeVisible()
  // Who shares nothing is unknown, never free.
  await expect(
    grid.getByRole('gridcell', { name: /^Severin Plattner, \d\d:\d\d there, unknown/ }),
  ).toBeVisible()
  await expectAccessible(page, 'People')
  await page.getByLabel('Find a person').fill('wanj')
  await expect(page.getByRole('status').first()).toHaveText('1 person')
  await page.getByRole('button', { name: 'What to do with Wanjiru Kamande' }).click()
  await page.getByRole('menuitem', { name: 'See their time beside mine' }).click()
  await expect(page.getByRole('gridcell', { name: /^Wanjiru Kamande, Mon 23 Nov/ })).toBeVisible()
  await page.getByRole('link', { name: 'People' }).click()
  await page.getByLabel('Team').selectOption('Instruments')
  await page.getByRole('button', { name: /^Arrange with \d+ people…$/ }).click()
  await expect(lane(page, 'Aroha Pene')).toBeVisible()
})

test('what one was invited to is a list of its own, in groups by answer, and opens each', async ({
  browser,
}) => {
  const page = await openMyTime(browser, 'Ilse Brandacher')
  await page.getByRole('button', { name: 'List', exact: true }).click()
  await page.getByRole('link', { name: 'Invitations' }).click()
  const table = page.getByRole('table', { name: 'Invitations' })
  await expect(table.getByRole('columnheader', { name: 'My answer' })).toBeVisible()
  await page.getByLabel('In groups').selectOption({ label: 'by my answer' })
  await expect(table.getByRole('rowheader', { name: /^yes/ })).toBeVisible()
  await page.getByLabel('Find in the invitations').fill('heads of teams')
  await table.getByRole('button', { name: 'Heads of teams' }).click()
  await expect(sheetOf(page, 'Heads of teams')).toContainText('Organized by Henrike Aasland')
  await expectAccessible(page, 'The list of invitations')
})
