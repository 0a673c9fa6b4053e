import { createServer } from 'node:http'
import { expect } from '@playwright/test'
import { test } from './journey.ts'
import { arrangeWith, expectAccessible, lane, openMyTime, sheetOf, signIn } from './person.ts'
import { MARMOT, PORTS } from './ports.ts'

test('a reminder comes while one is elsewhere, is put off and put away; a file is attached, taken off and put back', async ({
  browser,
}) => {
  const title = 'Warm the saw'
  const page = await openMyTime(browser, 'Matteo Ruprechter')
  // It comes due at the next full minute; until then there is other work.
  const session = await (await page.request.get(`${MARMOT}/api/session`)).json()
  const start = new Date(Math.ceil(Date.parse(session.now) / 60_000) * 60_000 + 10 * 60_000)
  const wall = start.toLocaleString('sv-SE', { timeZone: 'Europe/Vienna' }).replace(' ', 'T').slice(0, 16)
  const made = await page.request.post(`${MARMOT}/api/entries`, {
    headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
    data: { starts: wall, minutes: 10, zone: 'Europe/Vienna', title, reminders: [10] },
  })
  expect(made.status(), await made.text()).toBe(200)

  await page.keyboard.press('c')
  const sheet = sheetOf(page, 'New entry')
  await sheet.getByLabel('Title').fill('Saw blades')
  await sheet.getByLabel('Day', { exact: true }).fill('28 nov')
  await sheet.getByLabel('From').fill('10:00')
  await sheet.getByLabel('Until, or length').fill('30m')
  await sheet.getByText('Description, category').click()
  await sheet.getByLabel('Attach files').setInputFiles([
    { name: 'blades.txt', mimeType: 'text/plain', buffer: Buffer.from('Two of 300 mm') },
    { name: 'video.mp4', mimeType: 'video/mp4', buffer: Buffer.alloc(11 * 1024 * 1024) },
  ])
  await expect(sheet.getByRole('alert')).toContainText('video.mp4 is larger than 10 MB')
  await expect(sheet.getByText('blades.txt')).toBeVisible()
  await sheet.getByRole('button', { name: 'Add it' }).click()
  await page.getByTitle('10:00 to 10:30, Saw blades').last().click()
  const open = sheetOf(page, 'Saw blades')
  const file = open.getByRole('link', { name: 'blades.txt' })
  const download = page.waitForEvent('download')
  await file.click()
  expect((await download).suggestedFilename()).toBe('blades.txt')
  await open.getByRole('button', { name: 'Change…' }).click()
  await open.getByRole('button', { name: 'Take blades.txt off' }).click()
  await expect(file).toBeHidden()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await page.getByTitle('10:00 to 10:30, Saw blades').last().click()
  await expect(file).toBeVisible()
  await page.keyboard.press('Escape')

  await page.getByRole('link', { name: 'Places' }).click()
  // Others may come due meanwhile.
  const reminder = page
    .getByRole('region', { name: 'Reminders' })
    .getByRole('listitem')
    .filter({ hasText: title })
  await expect(reminder).toBeVisible({ timeout: 150_000 })
  await expectAccessible(page, 'A reminder')
  await reminder.getByRole('button', { name: '5 min later', exact: true }).click()
  await expect(reminder).toBeHidden()
})

test('what comes next is published as a page for other sites, and stopped', async ({ browser }) => {
  const page = await signIn(browser, 'Henrike Aasland')
  await page.goto(`${MARMOT}/settings?part=feeds`)
  await page
    .getByLabel('Publish', { exact: true })
    .selectOption({ label: 'A small page of this day or the next seven' })
  await page.getByLabel('Showing').selectOption({ label: 'headlines' })
  await page.getByRole('button', { name: 'Make an address' }).click()
  const frame = (await page.getByTestId('address').textContent()) ?? ''
  const address = /src="([^"]+)"/.exec(frame)?.[1] ?? ''
  await expectAccessible(page, 'An address was made')

  // On somebody else's site, to somebody who is not signed in here.
  const visitor = await (await browser.newContext({ viewport: { width: 390, height: 844 } })).newPage()
  const site = createServer((_, answer) => {
    answer.setHeader('content-type', 'text/html')
    answer.end(`<!doctype html><title>Our partners</title>${frame}`)
  })
  await new Promise<void>((resolve) => site.listen(PORTS.elsewhere, 'localhost', resolve))
  await visitor.goto(`http://localhost:${PORTS.elsewhere}`)
  const inside = visitor.frameLocator('iframe')
  await expect(inside.getByRole('heading', { name: 'Henrike Aasland: the next seven days' })).toBeVisible()
  await expect(inside.getByRole('listitem').first()).toContainText(/\d\d:\d\d–\d\d:\d\d|all day/)
  site.close()
  await visitor.goto(address)
  await expectAccessible(visitor, 'What is next')

  // Its settings change, and its address stays.
  await page.getByRole('button', { name: 'Change…' }).click()
  const change = page.getByRole('listitem').filter({ has: page.getByRole('button', { name: 'Keep' }) })
  await change.getByLabel('Which days').selectOption({ label: 'this day' })
  await change.getByLabel('Heading').fill('At the institute')
  await change.getByLabel('Light').selectOption({ label: 'dark' })
  await expectAccessible(page, 'What an address shows')
  await change.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByText('A small page of this day, headlines, since')).toBeVisible()
  await visitor.goto(address)
  await expect(visitor.getByRole('heading', { name: 'At the institute' })).toBeVisible()
  await expect(visitor.getByRole('heading', { level: 2 })).toHaveCount(1)
  await expectAccessible(visitor, 'What is next today')

  await page.getByRole('button', { name: 'Stop it' }).first().click()
  await expect(page.getByText('You publish nothing.')).toBeVisible()
  expect((await visitor.goto(address))?.status()).toBe(410)
})

test('a colleague’s change takes the chosen time away while one looks, and the screen says so', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, ['Matteo Ruprechter'])
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  const cards = ilse.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await cards.nth(1).getByRole('button').first().click()
  await expect(lane(ilse, 'Matteo Ruprechter')).toHaveAccessibleName(/, free/)
  const when = (await tray.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/).textContent()) ?? ''
  const [, day = '', from = ''] = /^\w+day (\d+ \w+), (\d\d:\d\d)/.exec(when) ?? []

  const matteo = await openMyTime(browser, 'Matteo Ruprechter')
  await matteo.keyboard.press('a')
  await matteo.keyboard.type(`Roof check ${day} ${from} 30m`)
  await matteo.keyboard.press('Enter')
  await expect(
    ilse.getByText('Matteo cannot come at the chosen time any more: it changed just now.'),
  ).toBeVisible()
  await expect(tray.getByText(/^⚠ Does not work: Matteo is busy until/)).toBeVisible()
  await expect(lane(ilse, 'Matteo Ruprechter')).toHaveAccessibleName(/busy/)
  await matteo.keyboard.press('Control+z')
  await expect(lane(ilse, 'Matteo Ruprechter')).toHaveAccessibleName(/, free/)
})

test('a long search says that it goes on, can be stopped and asked again', async ({ browser }) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  // More people than are searched for in the page; the server's answer is held back until it was looked at.
  let letGo = () => {}
  const held = new Promise<void>((resolve) => {
    letGo = resolve
  })
  let asked = 0
  await ilse.route('**/api/openings', async (route) => {
    asked++
    await held
    await route.continue().catch(() => undefined)
  })
  await ilse.getByRole('link', { name: 'Arrange' }).click()
  const search = ilse.getByPlaceholder('Add a person, team, address')
  for (const team of ['Avalanche Forecast', 'Ice Core', 'Data', 'Instruments', 'Field Logistics', 'Office']) {
    await search.fill(team)
    await ilse.getByRole('option', { name: new RegExp(`^${team} team`) }).click()
  }
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  await expect(tray.getByText('Looking for times…')).toBeVisible()
  await expectAccessible(ilse, 'Searching')
  await tray.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(tray.getByText('Stopped before anything was found.')).toBeVisible()
  expect(asked).toBeGreaterThan(0)
  letGo()
  await tray.getByRole('button', { name: 'Search again' }).click()
  await expect(tray.getByText('No time suits everybody.')).toBeVisible()
  await expect(tray.getByText('Stopped before anything was found.')).toBeHidden()
})
