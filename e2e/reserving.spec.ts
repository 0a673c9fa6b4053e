import { readFile } from 'node:fs/promises'
import { expect, type Locator, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { expectAccessible, expectNoSideways, lane, sheetOf, signIn, tabTo } from './person.ts'

const places = async (page: Page, kind: string) => {
  await page.getByRole('link', { name: 'Places' }).click()
  await page.getByText(kind, { exact: true }).click()
}

/** Goes to a day by typing it. */
const goTo = async (page: Page, day: string) => {
  await page.getByPlaceholder('Go to: 3 dec, next tue').fill(day)
  await page.keyboard.press('Enter')
}

/** Has a place reserved by whoever is signed in, over HTTP. */
const reserve = (page: Page, title: string, place: string, starts: string, minutes: number) =>
  page.evaluate(
    async (asked) => {
      const { resources } = await (await fetch('/api/resources')).json()
      const { id } = resources.find((one: { name: string }) => one.name === asked.place)
      const answer = await fetch('/api/meetings', {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'idempotency-key': crypto.randomUUID() },
        body: JSON.stringify({
          title: asked.title,
          starts: asked.starts,
          minutes: asked.minutes,
          zone: 'Europe/Vienna',
          people: [],
          guests: [],
          places: [id],
          shows: 'listed',
        }),
      })
      if (!answer.ok) throw new Error(await answer.text())
    },
    { title, place, starts, minutes },
  )

/** Draws on a lane of a whole day, from one hour to another. */
const draw = async (page: Page, name: string, from: number, to: number) => {
  const box = await lane(page, name).boundingBox()
  if (!box) throw new Error('no lane')
  const x = (hour: number) => box.x + (box.width * hour) / 24
  const y = box.y + box.height / 2
  await page.mouse.move(x(from), y)
  await page.mouse.down()
  await page.mouse.move(x(to), y, { steps: 8 })
}

const beside = (page: Page, name: string | RegExp) => page.getByRole('region', { name })

test('a lab is taken every other week, two clashes repaired beforehand, one date moved, one given back, all of it in the list', async ({
  browser,
}) => {
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  await reserve(matteo, 'Core sawing', 'Cold lab −20', '2027-04-20T10:30', 60)
  await reserve(matteo, 'Core sawing', 'Cold lab −20', '2027-05-18T11:00', 60)

  const page = await signIn(browser, 'Aroha Pene')
  await places(page, 'Labs')
  await goTo(page, '23 mar')
  await draw(page, 'Cold lab −20', 20, 22)
  await expect(page.locator('.drag-words')).toHaveText(/^Tuesday 23 March 2027, 20:00 to 22:00/)
  await page.mouse.up()
  const sheet = beside(page, 'Reserve Cold lab −20')
  await expect(sheet.getByLabel('What for')).toBeFocused()
  await page.keyboard.type('Borehole probes')
  await sheet.getByLabel('Repeats').selectOption('Every week')
  await sheet.getByLabel('How many between').fill('2')
  await sheet.getByLabel('Until when').selectOption('a number of times')
  await sheet.getByLabel('How many times').fill('8')
  await sheet.getByLabel('Not on').fill('4 may')
  await page.keyboard.press('Enter')
  await expect(sheet.getByText('7 dates, 2 clash')).toBeVisible()
  await expectAccessible(page, 'Reserving')
  const april = sheet
    .getByRole('listitem')
    .filter({ hasText: 'Matteo Ruprechter has it from 10:30 to 11:30' })
  await april.getByRole('button', { name: 'Cold lab −5 instead, without band saw' }).click()
  const may = sheet.getByRole('listitem').filter({ hasText: 'Matteo Ruprechter has it from 11:00 to 12:00' })
  await may.getByRole('button', { name: /that day$/ }).click()
  await expect(sheet.getByText('7 dates, all free')).toBeVisible()
  await sheet
    .getByRole('button', {
      name: 'Take Cold lab −20, Tuesday 23 March 2027, 20:00 to 22:00, and 6 more dates',
    })
    .click()
  await expect(page.getByText(/^Cold lab −20 reserved: Tuesday 23 March 2027/)).toBeVisible()
  await expect(sheet).toBeHidden()

  await page.getByRole('button', { name: 'My reservations' }).click()
  await page.getByLabel('Find a reservation').fill('borehole')
  const rows = page.getByRole('row').filter({ hasText: 'Borehole probes' })
  await expect(rows).toHaveCount(7)
  await expect(rows.filter({ hasText: 'Cold lab −5' })).toHaveCount(1)
  await expectAccessible(page, 'My reservations')

  await page.getByRole('button', { name: /^Tue 1 Jun/ }).click()
  const whole = sheetOf(page, 'Borehole probes')
  await expect(whole.getByText('Reserved by you')).toBeVisible()
  await whole.getByRole('button', { name: 'Change…' }).click()
  const change = sheetOf(page, 'Change Borehole probes')
  await change.getByRole('button', { name: /^Cold lab −5/ }).click()
  await change.getByRole('button', { name: /^Cold lab −20/ }).click()
  await change.getByRole('button', { name: 'Change it', exact: true }).click()
  await expect(change).toBeHidden()
  await page.keyboard.press('Escape')
  await expect(rows.filter({ hasText: 'Cold lab −5' })).toHaveCount(2)

  await page.getByRole('checkbox', { name: 'Choose Cold lab −20, Tue 15 Jun' }).check()
  await page.getByRole('button', { name: 'Give back 1' }).click()
  await expect(rows).toHaveCount(6)
  await page.getByRole('button', { name: 'Take back' }).first().click()
  await expect(rows).toHaveCount(7)
  await page.getByRole('checkbox', { name: 'Choose Cold lab −20, Tue 15 Jun' }).check()
  await page.getByRole('button', { name: 'Give back 1' }).click()
  await expect(rows).toHaveCount(6)

  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'CSV' }).click(),
  ])
  const csv = await readFile(await file.path(), 'utf8')
  expect(csv.split('\r\n').filter((line) => line.includes('Borehole probes'))).toHaveLength(6)
  expect(csv).not.toContain('2027-06-15')
})

test('by keys alone: a lab every other week, two clashes repaired, one date moved, one given back, all of it in the list', async ({
  browser,
}) => {
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  await reserve(matteo, 'Core sawing', 'Cold lab −20', '2027-04-21T10:30', 60)
  await reserve(matteo, 'Core sawing', 'Cold lab −20', '2027-05-19T11:00', 60)

  const page = await signIn(browser, 'Aroha Pene')
  const press = async (target: Locator) => {
    await tabTo(page, target)
    await page.keyboard.press('Enter')
  }
  const write = async (field: Locator, text: string) => {
    await tabTo(page, field)
    await page.keyboard.press('Control+a')
    await page.keyboard.type(text)
  }
  /** Goes down a list of choices until one stands there. */
  const choose = async (field: Locator, words: string) => {
    await tabTo(page, field)
    for (let i = 0; i < 9; i++) {
      if ((await field.locator('option:checked').textContent()) === words) return
      await page.keyboard.press('ArrowDown')
    }
    throw new Error(`There is no ${words}`)
  }
  await press(page.getByRole('link', { name: 'Places' }))
  await expect(lane(page, 'Serac')).toBeVisible()
  await tabTo(page, page.getByRole('radio', { name: 'Rooms' }))
  await page.keyboard.press('ArrowRight')
  await write(page.getByPlaceholder('Go to: 3 dec, next tue'), '24 mar')
  await page.keyboard.press('Enter')
  // One lane of the grid is reached by Tab, the others by arrows.
  await tabTo(page, page.locator('[role=gridcell][tabindex="0"]').first())
  const cold = lane(page, 'Cold lab −20')
  for (let i = 0; i < 20; i++) {
    if (await cold.evaluate((element) => element === document.activeElement)) break
    await page.keyboard.press('ArrowDown')
  }
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Enter')
  const sheet = beside(page, 'Reserve Cold lab −20')
  await expect(sheet.getByLabel('What for')).toBeFocused()
  await page.keyboard.type('Ice lenses')
  await write(sheet.getByLabel('From', { exact: true }), '20:00')
  await write(sheet.getByLabel('Until, or length'), '2h')
  await expect(sheet.getByText('Wednesday 24 March 2027, 20:00 to 22:00').first()).toBeVisible()
  await choose(sheet.getByLabel('Repeats'), 'Every week')
  await write(sheet.getByLabel('How many between'), '2')
  await choose(sheet.getByLabel('Until when'), 'a number of times')
  await write(sheet.getByLabel('How many times'), '8')
  await write(sheet.getByLabel('Not on'), '5 may')
  await page.keyboard.press('Enter')
  await expect(sheet.getByText('7 dates, 2 clash')).toBeVisible()
  const clash = (words: string) => sheet.getByRole('listitem').filter({ hasText: words })
  await press(clash('from 10:30 to 11:30').getByRole('button', { name: /^Cold lab −5 instead/ }))
  await press(clash('from 11:00 to 12:00').getByRole('button', { name: /that day$/ }))
  await expect(sheet.getByText('7 dates, all free')).toBeVisible()
  await press(
    sheet.getByRole('button', { name: /^Take Cold lab −20, Wednesday 24 March 2027.*and 6 more dates$/ }),
  )
  await expect(sheet).toBeHidden()

  await press(page.getByRole('button', { name: 'My reservations' }))
  await write(page.getByLabel('Find a reservation'), 'lenses')
  const rows = page.getByRole('row').filter({ hasText: 'Ice lenses' })
  await expect(rows).toHaveCount(7)
  await press(page.getByRole('button', { name: /^Wed 2 Jun/ }))
  const whole = sheetOf(page, 'Ice lenses')
  await press(whole.getByRole('button', { name: 'Change…' }))
  const change = sheetOf(page, 'Change Ice lenses')
  await press(change.getByRole('button', { name: /^Cold lab −5/ }))
  await press(change.getByRole('button', { name: /^Cold lab −20/ }))
  await press(change.getByRole('button', { name: 'Change it', exact: true }))
  await expect(change).toBeHidden()
  await page.keyboard.press('Escape')
  await expect(rows.filter({ hasText: 'Cold lab −5' })).toHaveCount(2)
  await tabTo(page, page.getByRole('checkbox', { name: 'Choose Cold lab −20, Wed 16 Jun' }))
  await page.keyboard.press('Space')
  await press(page.getByRole('button', { name: 'Give back 1' }))
  await expect(rows).toHaveCount(6)
  const downloaded = page.waitForEvent('download')
  await press(page.getByRole('link', { name: 'CSV' }))
  const csv = await readFile(await (await downloaded).path(), 'utf8')
  expect(csv.split('\r\n').filter((line) => line.includes('Ice lenses'))).toHaveLength(6)
  expect(csv).not.toContain('2027-06-16')
})

test('by keys alone counted equipment is found, taken and given back', async ({ browser }) => {
  const page = await signIn(browser, 'Aroha Pene')
  await page.getByRole('link', { name: 'Places' }).click()
  await expect(lane(page, 'Serac')).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.type('sledge')
  await tabTo(page, page.getByRole('radio', { name: 'Rooms' }))
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowRight')
  await expect(lane(page, 'Snow-radar sledge')).toBeVisible()
  await goTo(page, '24 mar')
  await tabTo(page, lane(page, 'Snow-radar sledge'))
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Enter')
  const sheet = beside(page, /^Reserve Snow-radar sledge/)
  await expect(sheet.getByLabel('What for')).toBeFocused()
  await page.keyboard.type('Radar line')
  await tabTo(page, sheet.getByLabel('Snow-radar sledge'))
  await page.keyboard.press('ArrowUp')
  await expect(sheet.getByLabel('Snow-radar sledge')).toHaveValue('2')
  const take = sheet.getByRole('button', {
    name: /^Take Snow-radar sledge 1 and Snow-radar sledge 2, Wednesday 24 March/,
  })
  await expect(take).toBeEnabled()
  await tabTo(page, take)
  await page.keyboard.press('Enter')
  await expect(sheet).toBeHidden()
  await tabTo(page, page.getByRole('button', { name: 'My reservations' }))
  await page.keyboard.press('Enter')
  await tabTo(page, page.getByLabel('Find a reservation'))
  await page.keyboard.type('radar line')
  const rows = page.getByRole('row').filter({ hasText: 'Radar line' })
  await expect(rows).toHaveCount(2)
  await tabTo(page, rows.first().getByRole('button'))
  await page.keyboard.press('Enter')
  const whole = sheetOf(page, 'Radar line')
  await tabTo(page, whole.getByRole('button', { name: 'Give it back…' }))
  await page.keyboard.press('Enter')
  await tabTo(page, whole.getByRole('button', { name: 'Give back', exact: true }))
  await page.keyboard.press('Enter')
  await expect(rows).toHaveCount(0)
  // What can be taken back says so first.
  await expect(page.getByText('Gave back Radar line.')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(whole).toBeHidden()
  await page.keyboard.press('Control+z')
  await expect(rows).toHaveCount(2)
})

test('another’s reservation appears while one looks, and a place that is taken meanwhile says so and offers others', async ({
  browser,
}) => {
  const [page, matteo] = await Promise.all([
    signIn(browser, 'Henrike Aasland'),
    signIn(browser, 'Matteo Ruprechter'),
  ])
  await places(page, 'Rooms')
  await goTo(page, '25 mar')
  await draw(page, 'Serac', 14, 15)
  await page.mouse.up()
  const sheet = beside(page, /^Reserve /)
  const take = sheet.getByRole('button', { name: /^Take Serac/ })
  await expect(take).toBeEnabled()
  await reserve(matteo, 'Quick as light', 'Serac', '2027-03-25T14:30', 30)
  await expect(
    sheet.getByText('Serac is taken at 14:00: Matteo Ruprechter has it from 14:30 to 15:00.'),
  ).toBeVisible()
  await expect(sheet.getByText('not free then')).toBeVisible()
  await sheet.getByRole('button', { name: /instead$/ }).click()
  await expect(sheet.getByRole('button', { name: /^Take / })).toBeEnabled()
  await page.setViewportSize({ width: 390, height: 844 })
  await expectNoSideways(page)
  await expectAccessible(page, 'Reserving on a phone')
  await page.keyboard.press('Escape')
  await expect(beside(page, /^Reserve/)).toBeHidden()
})

test('a description has a picture, which whoever reads it sees', async ({ browser }) => {
  const page = await signIn(browser, 'Henrike Aasland')
  await places(page, 'Rooms')
  await goTo(page, '10 may')
  await draw(page, 'Serac', 14, 15)
  await page.mouse.up()
  const sheet = beside(page, /^Reserve /)
  await sheet.getByLabel('What for', { exact: true }).fill('Benches in a row')
  await sheet.getByRole('button', { name: /^More: purpose/ }).click()
  await sheet.getByRole('textbox', { name: 'Description' }).fill('How they stand:')
  const pictures = sheet.getByLabel('Choose pictures')
  await pictures.setInputFiles({ name: 'a.txt', mimeType: 'text/plain', buffer: Buffer.from('no picture') })
  await expect(page.getByText('a.txt is no picture. It was not put in.')).toBeVisible()
  await pictures.setInputFiles('docs/screenshots/now.png')
  await expect(sheet.getByRole('img', { name: 'now.png' })).toBeVisible()
  await sheet.getByRole('button', { name: /^Take Serac/ }).click()
  await expect(sheet).toBeHidden()
  await page.getByRole('button', { name: 'My reservations' }).click()
  await page.getByLabel('Find a reservation').fill('benches in')
  const rows = page.getByRole('row').filter({ hasText: 'Benches in a row' })
  await rows.first().getByRole('button').first().click()
  const picture = page.getByRole('dialog').getByRole('img', { name: 'now.png' })
  await expect(picture).toBeVisible()
  await expect(picture).toHaveJSProperty('complete', true)
  expect(await picture.evaluate((one: HTMLImageElement) => one.naturalWidth)).toBeGreaterThan(300)
  await expectAccessible(page, 'A reservation with a picture')
})

test('a time that was chosen is still judged rightly while other days are looked at', async ({ browser }) => {
  const [page, matteo] = await Promise.all([
    signIn(browser, 'Henrike Aasland'),
    signIn(browser, 'Matteo Ruprechter'),
  ])
  await reserve(matteo, 'Slate polishing', 'Serac', '2027-03-26T14:00', 60)
  await places(page, 'Rooms')
  await goTo(page, '26 mar')
  await draw(page, 'Icefall', 14, 15)
  await page.mouse.up()
  const sheet = beside(page, /^Reserve /)
  await expect(sheet).toBeVisible()
  await page.getByLabel('free at the chosen time').check()
  await expect(lane(page, 'Serac')).toHaveCount(0)
  await goTo(page, '20 may')
  await expect(lane(page, 'Moraine')).toBeVisible()
  await expect(lane(page, 'Serac')).toHaveCount(0)
})

test('a place is closed for repair: of four reservations that it hits three go to their like with one press each, one is told why not', async ({
  browser,
}) => {
  const [ilse, matteo, henrike] = await Promise.all([
    signIn(browser, 'Ilse Brandacher'),
    signIn(browser, 'Matteo Ruprechter'),
    signIn(browser, 'Henrike Aasland'),
  ])
  await reserve(matteo, 'Saw maintenance', 'Moraine', '2027-03-30T09:00', 60)
  await reserve(henrike, 'Budget talks', 'Moraine', '2027-03-30T10:30', 60)
  await reserve(matteo, 'Saw training', 'Moraine', '2027-03-30T13:00', 60)
  await reserve(henrike, 'Auditors', 'Moraine', '2027-03-30T15:00', 60)
  await places(ilse, 'Rooms')
  await goTo(ilse, '30 mar')
  await ilse.getByRole('button', { name: /^Moraine/ }).click()
  await beside(ilse, 'Moraine').getByRole('button', { name: 'Close it for a time…' }).click()
  const sheet = beside(ilse, 'Close Moraine')
  await expect(sheet.getByLabel('Why, for everybody to read')).toBeFocused()
  await ilse.keyboard.type('in repair: new windows')
  await sheet.getByLabel('Whole days').check()
  await expect(sheet.getByText('It hits 4 reservations')).toBeVisible()
  await expectAccessible(ilse, 'Closing a place')
  const hits = sheet.getByRole('region', { name: 'What it hits' }).getByRole('listitem')
  for (const at of [0, 1, 2])
    await hits
      .nth(at)
      .getByRole('button', { name: /instead/ })
      .click()
  await hits.nth(3).getByRole('button', { name: 'Give it up' }).click()
  await sheet.getByRole('button', { name: 'Close Moraine, move 3, give up 1' }).click()
  await expect(ilse.getByText(/^Moraine is closed: in repair: new windows/)).toBeVisible()

  await henrike.getByRole('link', { name: 'Now' }).click()
  await expect(henrike.getByText(/does not let you have Moraine.*new windows/)).toBeVisible()
  await expect(henrike.getByText(/gives you .* instead of Moraine.*new windows/)).toBeVisible()

  await ilse.getByRole('button', { name: /^Moraine/ }).click()
  await beside(ilse, 'Moraine').getByRole('button', { name: 'Open again' }).click()
  await expect(ilse.getByText('Moraine is open again.')).toBeVisible()

  await beside(ilse, 'Moraine').getByRole('button', { name: 'Rules…' }).click()
  const rules = beside(ilse, 'Rules of Moraine')
  await rules.getByLabel('For at most').fill('45m')
  await expect(rules.getByText(/reservations? would not be allowed any more/)).toBeVisible()
  await expectAccessible(ilse, 'Rules')
  await rules.getByRole('button', { name: 'Set these rules' }).click()
  await expect(beside(ilse, 'Moraine').getByText(/For 45 min at most\./)).toBeVisible()
})

test('a lab whose steward decides is asked for with its purpose, granted from Now, refused with words', async ({
  browser,
}) => {
  const [matteo, page] = await Promise.all([
    signIn(browser, 'Matteo Ruprechter'),
    signIn(browser, 'Aroha Pene'),
  ])
  await places(page, 'Labs')
  for (const [day, purpose] of [
    ['1 apr', 'Firn sections'],
    ['2 apr', 'Dust sections'],
  ] as const) {
    await goTo(page, day)
    await draw(page, 'Thin-section lab', 20, 21)
    await page.mouse.up()
    const sheet = beside(page, 'Reserve Thin-section lab')
    await expect(sheet.getByText(/Each use is approved first.*Matteo Ruprechter decides\./)).toBeVisible()
    await sheet.getByLabel('What for, for Matteo Ruprechter, who decides').fill(purpose)
    await sheet.getByRole('button', { name: /^Ask for Thin-section lab/ }).click()
    await expect(sheet).toBeHidden()
  }
  await matteo.getByRole('link', { name: 'Now' }).click()
  const asked = matteo.getByRole('listitem', { name: 'Thin-section lab for Aroha Pene' })
  await expect(asked).toHaveCount(2)
  await expectAccessible(matteo, 'Requests')
  await asked.filter({ hasText: 'For Firn sections' }).getByRole('button', { name: 'Grant it' }).click()
  await expect(asked).toHaveCount(1)
  await asked.getByRole('button', { name: 'Refuse…' }).click()
  await asked.getByLabel('Why not (they read it)').fill('The saw is away; Monday?')
  await asked.getByRole('button', { name: 'Refuse it' }).click()
  await expect(asked).toHaveCount(0)

  await page.getByRole('link', { name: 'Now' }).click()
  await expect(page.getByText(/lets you have Thin-section lab/)).toBeVisible()
  await expect(
    page.getByText(/does not let you have Thin-section lab: The saw is away; Monday\?/),
  ).toBeVisible()
})

test('a steward would have it at another time: chosen on the day of the place, taken with one press, and granted by that', async ({
  browser,
}) => {
  const [matteo, page] = await Promise.all([
    signIn(browser, 'Matteo Ruprechter'),
    signIn(browser, 'Tashi Lhendup'),
  ])
  const day = 14
  await reserve(page, 'Ice lens sections', 'Thin-section lab', `2027-04-${day}T10:00`, 60)
  await matteo.getByRole('link', { name: 'Now' }).click()
  const asked = matteo.getByRole('listitem', { name: 'Thin-section lab for Tashi Lhendup' })
  await asked.getByRole('button', { name: 'Another time…' }).click()
  await expect(asked.getByRole('button', { name: 'That is the time it has' })).toBeDisabled()
  await asked.getByLabel('From').fill('13:30')
  await expect(asked.getByText(new RegExp(`${day} April.*13:30 to 14:30`))).toBeVisible()
  await asked.getByLabel('Words to Tashi Lhendup (optional)').fill('The saw is set up then')
  await expectAccessible(matteo, 'Another time for a request')
  await asked.getByRole('button', { name: 'Propose it to Tashi Lhendup' }).click()
  await expect(asked.getByText(/You proposed .* has not answered/)).toBeVisible()

  await page.getByRole('link', { name: 'Now' }).click()
  const proposed = page.getByRole('listitem').filter({ hasText: 'who looks after Thin-section lab' })
  await expect(proposed).toContainText('The saw is set up then')
  await expectAccessible(page, 'Another time from a steward')
  await proposed.getByRole('button', { name: 'Take that time' }).click()
  await expect(proposed).toHaveCount(0)
  await expect(asked).toHaveCount(0)
  await expect(
    matteo.getByText(/takes the time that you proposed for Thin-section lab/).first(),
  ).toBeVisible()
})

test('while arranging: the hall is taken, room is asked for; nobody makes it, and the meeting is in hand again', async ({
  browser,
}) => {
  const [henrike, page] = await Promise.all([
    signIn(browser, 'Henrike Aasland'),
    signIn(browser, 'Aroha Pene'),
  ])
  const day = 20
  await reserve(henrike, 'Winter review', 'Névé Hall', `2027-04-${day}T14:00`, 60)
  const address = await page.evaluate(async (start) => {
    const json = (path: string) => fetch(path).then((answer) => answer.json())
    const { resources } = await json('/api/resources')
    const { people } = await json('/api/people?q=Wanjiru')
    const { person } = await json('/api/session')
    const day = Math.floor(Date.parse(start) / 86_400_000)
    const one = (id: string) => ({ id, required: true, group: null })
    const brief = {
      title: 'Open day for schools',
      note: '',
      minutes: 60,
      people: [one(person.id), one(people[0].id)],
      guests: [],
      groups: [],
      fromDay: day,
      toDay: day + 2,
      step: 15,
      rules: {
        stretch: null,
        earliest: null,
        latest: null,
        weekdays: [],
        lunch: false,
        before: 0,
        after: 0,
        mostADay: null,
        notice: 0,
        tentative: true,
      },
      places: [resources.find((each: { name: string }) => each.name === 'Névé Hall').id],
      needs: [],
      placesMust: false,
      series: null,
      start: Date.parse(start),
      hold: null,
    }
    return btoa(JSON.stringify(brief)).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '')
  }, `2027-04-${day}T12:00:00Z`)
  await page.goto(new URL(`/arrange?brief=${address}`, page.url()).href)
  await page.getByRole('button', { name: 'See whether somebody can make room…' }).click()
  const room = page.getByRole('region', { name: 'Make room' })
  await expect(room.getByText(/Henrike Aasland would go from Névé Hall to/)).toBeVisible()
  await expect(room.getByText(/then Névé Hall is yours, and 1 invitation goes out/)).toBeVisible()
  await room.getByLabel('What for (they read it)').fill('Two classes come')
  await expectAccessible(page, 'Room for a meeting')
  await room.getByRole('button', { name: 'Ask Henrike Aasland' }).click()
  const mine = page.getByRole('listitem', { name: 'Room in Névé Hall for you' })
  await expect(mine).toContainText('“Open day for schools” is sent once there is')

  await henrike.getByRole('link', { name: 'Now' }).click()
  const asked = henrike.getByRole('listitem', { name: 'Room in Névé Hall for Aroha Pene' })
  await asked.getByRole('button', { name: 'No, I stay…' }).click()
  await asked.getByRole('button', { name: 'Stay, and tell them' }).click()
  await expect(mine).toContainText('was not sent')
  await mine.getByRole('button', { name: 'Arrange it otherwise' }).click()
  await expect(page.getByLabel('Title')).toHaveValue('Open day for schools')
  await expect(page.getByRole('button', { name: 'Send 1 invitation…' })).toBeEnabled()
})

test('the hall is taken: whoever has it is asked to go elsewhere, agrees under Now, and both have what they need', async ({
  browser,
}) => {
  const [henrike, page] = await Promise.all([
    signIn(browser, 'Henrike Aasland'),
    signIn(browser, 'Matteo Ruprechter'),
  ])
  const day = 6
  await reserve(henrike, 'Winter review', 'Névé Hall', `2027-04-0${day}T14:00`, 60)
  await places(page, 'Rooms')
  await goTo(page, `${day} apr`)
  await draw(page, 'Névé Hall', 20, 21)
  await page.mouse.up()
  const sheet = beside(page, /^Reserve /)
  await sheet.getByLabel('From', { exact: true }).fill('14:00')
  await sheet.getByRole('button', { name: 'See whether somebody can go elsewhere…' }).click()
  const room = sheet.getByRole('region', { name: 'Make room' })
  await expect(room.getByText(/Henrike Aasland would go from Névé Hall to/)).toBeVisible()
  await room.getByLabel('What for (they read it)').fill('Open day for schools')
  await expectAccessible(page, 'Making room')
  await room.getByRole('button', { name: 'Ask Henrike Aasland' }).click()
  await expect(sheet).toBeHidden()
  await page.getByRole('link', { name: 'Now' }).click()
  const mine = page.getByRole('listitem', { name: 'Room in Névé Hall for you' })
  await expect(mine).toContainText('has not answered')

  await henrike.getByRole('link', { name: 'Now' }).click()
  const asked = henrike.getByRole('listitem', { name: 'Room in Névé Hall for Matteo Ruprechter' })
  await expect(asked).toContainText('Open day for schools')
  await expectAccessible(henrike, 'Asked for room')
  await asked.getByRole('button', { name: /^Go to / }).click()
  await expect(asked).toHaveCount(0)
  await expect(
    page.getByText(new RegExp(`makes room: Névé Hall, \\w+day ${day} April.* is yours`)),
  ).toBeVisible()
  await expect(mine).toHaveCount(0)
})

test('a steward adds a place with its picture, takes a list after a look at it, and one of its places out of use', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Ilse Brandacher')
  await page.getByRole('link', { name: 'Places' }).click()
  await page.getByRole('button', { name: 'What I look after' }).click()
  await page.getByRole('button', { name: 'Places', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Serac', exact: true })).toBeVisible()
  await tabTo(page, page.getByRole('button', { name: 'Add a place' }))
  await page.keyboard.press('Enter')
  const adding = beside(page, 'A new place')
  await expect(adding.getByLabel('Name')).toBeFocused()
  await page.keyboard.type('Cairn')
  await adding.getByLabel('Seats').fill('6')
  await adding.getByLabel('Features, with how many').fill('2 screens; camera')
  await adding.getByRole('button', { name: 'Add Cairn' }).click()
  await page.getByRole('button', { name: 'Cairn', exact: true }).click()
  const cairn = beside(page, 'Cairn')
  const picture = cairn.getByLabel('Picture of the place')
  await picture.setInputFiles({ name: 'a.png', mimeType: 'image/png', buffer: Buffer.from('<script>') })
  await expect(cairn.getByText('That is no picture')).toBeVisible()
  await picture.setInputFiles('docs/screenshots/now.png')
  await expect(cairn.getByRole('img', { name: 'Cairn' })).toBeVisible()
  await cairn.getByPlaceholder('Add somebody, or a team').fill('Tashi')
  await cairn.getByRole('option', { name: /Tashi Lhendup/ }).click()
  await cairn.getByLabel('Tashi Lhendup, trained until').fill('2027-06-30')
  await expectAccessible(page, 'A place that I look after')
  await page.keyboard.press('Escape')

  await page.getByRole('button', { name: 'From a list…' }).click()
  const list = beside(page, 'Places from a list')
  const bring = (text: string) =>
    list
      .getByLabel('List of places')
      .setInputFiles({ name: 'places.csv', mimeType: 'text/csv', buffer: Buffer.from(text) })
  await bring('name;kind;site\nPolynya;room;Atlantis\n')
  await expect(list.getByText(/there is no site “Atlantis”/)).toBeVisible()
  await expect(list.getByRole('button', { name: 'Mend 1 line first' })).toBeDisabled()
  await expectAccessible(page, 'A list that is wrong')
  await bring('name;kind;site;seats\nPolynya;room;Innsbruck;5\nCairn;room;Innsbruck;7\n')
  await expect(list.getByText('changed: seats 6, now 7')).toBeVisible()
  await list.getByRole('button', { name: 'Add 1, change 1' }).click()
  await expect(page.getByRole('row', { name: /^Polynya/ })).toBeVisible()
  await page.getByRole('button', { name: 'Polynya', exact: true }).click()
  await beside(page, 'Polynya').getByRole('button', { name: 'Take it out of use' }).click()
  await expect(page.getByRole('row', { name: /^Polynya.*not in use/ })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('row', { name: /^Polynya.*not in use/ })).toHaveCount(0)
  await page.setViewportSize({ width: 390, height: 844 })
  await expectNoSideways(page)
})

test('a place has a page: its days by lens and list, mine beside them, reserved there, followed from elsewhere', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Henrike Aasland')
  await places(page, 'Rooms')
  await page.getByRole('button', { name: /^Col/ }).click()
  await beside(page, 'Col').getByRole('link', { name: 'All about it, and its days' }).click()
  await expect(page.getByRole('heading', { name: 'Col', level: 1 })).toBeVisible()
  await goTo(page, '7 apr')
  const day = page.getByRole('gridcell', { name: /^Wed(nesday)? 7 Apr/ })
  await expect(day).toBeVisible()
  await page.getByLabel('my time beside it').check()
  await expect(page.getByRole('gridcell', { name: /^My time, Wed 7 Apr/ })).toBeVisible()
  await page.getByRole('button', { name: 'Day', exact: true }).click()
  await page.getByRole('button', { name: 'Reserve…' }).click()
  const sheet = beside(page, 'Reserve Col')
  await sheet.getByLabel('What for').fill('Basalt choir')
  await sheet.getByLabel('Day', { exact: true }).fill('7 Apr')
  await sheet.getByRole('button', { name: /^Take Col, Wednesday 7 April/ }).click()
  await expect(sheet).toBeHidden()
  await page.getByRole('button', { name: 'Week', exact: true }).click()
  await page.getByRole('button', { name: 'List', exact: true }).click()
  await expect(page.getByText('Basalt choir')).toBeVisible()
  await page.getByRole('button', { name: 'Get an address for Col' }).click()
  const address = (await page.locator('code').textContent()) ?? ''
  const calendar = await page.request.get(address)
  expect(await calendar.text()).toContain('Basalt choir')
  await expectAccessible(page, 'The page of a place')
  await page.setViewportSize({ width: 390, height: 844 })
  await expectNoSideways(page)
})
