import { expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { expectAccessible, lane, openLetter, passMoment, signIn, tabTo } from './person.ts'
import { LETTERS, MARMOT } from './ports.ts'

const PEOPLE = ['Matteo Ruprechter', 'Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes']
const GUEST = 'mira.solberg@lodestar.example'

test('Ilse gets five people in four zones and a room into a meeting, and the answers come in', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await expectAccessible(ilse, 'Now')
  await ilse.getByRole('link', { name: 'Arrange' }).click()
  const search = ilse.getByPlaceholder('Add a person, team, address')
  for (const name of PEOPLE) {
    await search.fill(name.split(' ')[0] ?? name)
    await ilse.getByRole('option', { name: new RegExp(name) }).click()
  }
  await search.fill(`Mira Solberg <${GUEST}>`)
  await ilse.getByRole('option', { name: /as a guest/ }).click()
  await ilse.getByLabel('Title').fill('Firn core review')

  // Nobody's hours meet, so Marmot says who is in the way and what would help; one press tries it.
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  await expect(tray.getByText('No time suits everybody.')).toBeVisible()
  await expect(tray.getByText(/do not meet/).first()).toBeVisible()
  await ilse
    .getByRole('group', { name: 'What would help' })
    .getByRole('button', { name: /outside hours/ })
    .click()

  // The openings explain themselves; the second card is on another day than the first.
  const cards = ilse
    .getByRole('list', { name: 'Times that work, best first' })
    .getByRole('listitem')
    .locator('button:first-child')
  await cards.nth(1).click()
  await expect(cards.nth(1)).toHaveAttribute('aria-current', 'true')
  for (const name of ['Ilse Brandacher', ...PEOPLE])
    await expect(lane(ilse, name)).toHaveAccessibleName(/, free/)
  await expect(lane(ilse, 'Mira Solberg')).toHaveAccessibleName(/unknown/)
  await expectAccessible(ilse, 'Arrange')

  // Dragging the frame moves the time, and what is free moves with it.
  const frame = ilse.locator('.over-frame .frame')
  const box = await frame.boundingBox()
  if (!box) throw new Error('no frame')
  const words = ilse.getByRole('region', { name: 'This meeting' })
  const before = await words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/).textContent()
  await ilse.mouse.move(box.x + box.width / 2, box.y + 40)
  await ilse.mouse.down()
  await ilse.mouse.move(box.x + box.width / 2 - 300, box.y + 40, { steps: 8 })
  await expect(ilse.locator('.drag-words')).toContainText(/in \d+ days|today|tomorrow/)
  await ilse.mouse.up()
  await expect(words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/)).not.toHaveText(before ?? '')
  await ilse.keyboard.press('Control+z')
  await expect(words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/)).toHaveText(before ?? '')

  // One of each city is offered; the others are behind them.
  const free = ilse.getByRole('group', { name: 'Places free then' })
  await expect(free.getByRole('button', { name: /seats, \w+/ }).first()).toBeVisible()
  await free.getByRole('button', { name: /^and \d+ more$/ }).click()
  await ilse
    .getByRole('dialog', { name: 'More places free then' })
    .getByRole('button', { name: /^Col/ })
    .click()
  await ilse.keyboard.press('Escape')
  await expect(lane(ilse, 'Col')).toHaveAccessibleName(/, free/)
  await ilse.getByRole('button', { name: 'Send 5 invitations…' }).click()
  await expectAccessible(ilse, 'Before it goes')
  await ilse.getByRole('button', { name: 'Send 5 invitations and take Col' }).click()

  const sheet = ilse.getByRole('dialog', { name: 'Firn core review' })
  await expect(sheet.getByText('0 of 5 said yes, 5 have not answered')).toBeVisible()
  await passMoment()
  await expect(sheet.getByText('invitation sent').first()).toBeVisible()
  await expectAccessible(ilse, 'Following the answers')

  // Tashi finds it under Now, with the day around it.
  const tashi = await signIn(browser, 'Tashi Lhendup')
  const invitation = tashi.getByRole('listitem').filter({ hasText: 'Firn core review' }).first()
  const opener = invitation.getByRole('button', { name: 'Answer…' })
  if (await opener.isVisible()) await opener.click()
  await expect(invitation.getByRole('grid', { name: /My day around it/ })).toBeVisible()
  await invitation.getByLabel('A message to Ilse Brandacher').fill('See you there')
  await invitation.getByRole('button', { name: 'Yes, I come' }).click()
  await expect(tashi.getByText(/You said yes: Firn core review/)).toBeVisible()

  // It arrives while Ilse watches.
  await expect(sheet.getByText('1 of 5 said yes, 4 have not answered')).toBeVisible()
  await expect(sheet.getByText('“See you there”')).toBeVisible()

  // The guest answers from the link in the letter, without an account.
  const guest = await (await browser.newContext()).newPage()
  await openLetter(guest, GUEST, /Firn core review/)
  const link = await guest.getByRole('link', { name: new RegExp(`${MARMOT}/i/`) }).getAttribute('href')
  await guest.goto(link ?? '')
  await expect(guest.getByRole('heading', { name: 'Firn core review' })).toBeVisible()
  await expectAccessible(guest, 'The guest’s page')
  await guest.getByRole('button', { name: 'Perhaps' }).click()
  await expect(guest.getByText('You said that you may come.')).toBeVisible()
  await expect(sheet.getByText('1 of 5 said yes, 1 perhaps, 3 have not answered')).toBeVisible()

  // Then changes it by mail, from the mail program.
  await openLetter(guest, GUEST, /Firn core review/)
  await guest.getByLabel('Words with the answer').fill('I can come after all')
  await guest.getByRole('button', { name: 'Reply yes' }).click()
  await expect(guest.getByRole('status')).toHaveText('Your answer was sent.')
  await expect(sheet.getByText('2 of 5 said yes, 3 have not answered')).toBeVisible()
  await expect(sheet.getByText('“I can come after all”')).toBeVisible()

  // The reservation stands on the places' lanes of that day.
  const day = (await sheet.getByText(/^\w+day \d+ \w+, /).textContent()) ?? ''
  await ilse.keyboard.press('Escape')
  await ilse.getByRole('link', { name: 'Places' }).click()
  await ilse.getByLabel('Go to a date').fill(/\d+ \w+/.exec(day)?.[0] ?? '')
  await ilse.keyboard.press('Enter')
  await expect(ilse.getByTitle(/Firn core review/)).toBeVisible()
  await expectAccessible(ilse, 'Places')
  await guest.goto(LETTERS)
  await expectAccessible(guest, 'The mailboxes')
})

test('the same errand by keyboard alone, from signing in to the last answer', async ({ browser }) => {
  const open = async () => (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  const page = await open()
  const presses =
    (on: Page) =>
    (...keys: string[]) =>
      keys.reduce((done, key) => done.then(() => on.keyboard.press(key)), Promise.resolve())
  const press = presses(page)
  await page.goto(MARMOT)
  await tabTo(page, page.getByRole('button', { name: /Ilse Brandacher/ }))
  await expectAccessible(page, 'Signing in')
  await press('Enter')
  await expect(page.getByText('Good to see you')).toBeVisible()
  await press('3')
  await expect(page.getByPlaceholder('Add a person, team, address')).toBeVisible()
  await press('/')
  for (const name of [...PEOPLE.slice(1), 'Declan Furey']) {
    await page.keyboard.type(name)
    await expect(page.getByRole('option', { name: new RegExp(name) })).toBeVisible()
    await press('Enter')
    await expect(lane(page, name)).toBeVisible()
  }
  await page.keyboard.type('Runa Dahl <runa.dahl@lodestar.example>')
  await expect(page.getByRole('option', { name: /runa.dahl@lodestar.example as a guest/ })).toBeVisible()
  await press('Enter')
  await expect(lane(page, 'Runa Dahl')).toBeVisible()
  await press('Escape')

  // There is no such time; the first thing that would help is tried.
  await tabTo(page, page.getByRole('group', { name: 'What would help' }).getByRole('button').first())
  await press('Enter')

  // Twice the next opening, then from lane to lane and the time by a step and back.
  await expect(page.getByRole('list', { name: 'Times that work, best first' })).toBeVisible()
  await press('n', 'n')
  await tabTo(page, lane(page, 'Ilse Brandacher'))
  const heard = async () =>
    (await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))) ?? ''
  const first = await heard()
  expect(first).toMatch(/^Ilse Brandacher, Innsbruck, \d\d:\d\d to \d\d:\d\d, /)
  await press('ArrowRight')
  expect(await heard()).not.toBe(first)
  await press('ArrowLeft')
  expect(await heard()).toBe(first)
  await press('Shift+ArrowRight', 'Shift+ArrowRight')
  await expect(page.getByRole('button', { name: 'Length: 1 h' })).toBeVisible()
  await press('Shift+ArrowLeft', 'Shift+ArrowLeft', 'ArrowDown')
  expect(await heard()).toMatch(/^Wanjiru Kamande, Nairobi/)
  await press('ArrowDown', 'ArrowDown', 'ArrowDown')
  expect(await heard()).toMatch(/^Declan Furey, St. John’s/)
  await press('o')
  expect(await heard()).toMatch(/^Declan Furey, St. John’s, optional/)

  // The title, a place, the last look, and away it goes.
  await tabTo(page, page.getByLabel('Title'))
  await page.keyboard.type('Keyboard review')
  const places = page.getByRole('group', { name: 'Places free then' })
  await tabTo(page, places.getByRole('button').first())
  const name = ((await places.getByRole('button').first().textContent()) ?? '').split(' ')[0] ?? ''
  await press('Space')
  await expect(places.getByRole('button', { pressed: true })).toContainText(name)
  await press('s')
  await expect(
    page.getByRole('button', { name: new RegExp(`Send 5 invitations and take ${name}`) }),
  ).toBeFocused()
  await press('Enter')
  const sheet = page.getByRole('dialog', { name: 'Keyboard review' })
  await expect(sheet.getByText(/0 of 5 said yes/)).toBeVisible()

  const tashi = await open()
  await tashi.goto(MARMOT)
  await tabTo(tashi, tashi.getByRole('button', { name: /Tashi Lhendup/ }))
  await presses(tashi)('Enter')
  const invitation = tashi.getByRole('listitem').filter({ hasText: 'Keyboard review' }).first()
  await tabTo(tashi, invitation.getByRole('button', { name: 'Keyboard review' }))
  await presses(tashi)('Enter')
  await tabTo(tashi, invitation.getByRole('button', { name: 'No, I can’t' }))
  await presses(tashi)('Enter')
  await expect(sheet.getByText('Required, and not coming: Tashi Lhendup')).toBeVisible()

  const guest = await open()
  await openLetter(guest, 'runa.dahl@lodestar.example', /Keyboard review/)
  await tabTo(guest, guest.getByRole('link', { name: new RegExp(`${MARMOT}/i/`) }))
  await presses(guest)('Enter')
  await tabTo(guest, guest.getByRole('button', { name: 'Yes, I come' }))
  await presses(guest)('Enter')
  await expect(guest.getByText('You said that you will come.')).toBeVisible()
  await expect(sheet.getByText(/^1 of 5 said yes, 1 no, 3 have not answered$/)).toBeVisible()

  await press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
  await press('?')
  await expect(page.getByRole('dialog', { name: 'Keys of this screen' })).toBeVisible()
})

test('a place that was taken meanwhile: nothing is made, all is kept, and another is one press away', async ({
  browser,
}) => {
  const [ilse, henrike] = [await signIn(browser, 'Ilse Brandacher'), await signIn(browser, 'Henrike Aasland')]
  for (const [page, title] of [
    [ilse, 'Too late'],
    [henrike, 'First come'],
  ] as const) {
    await page.getByRole('link', { name: 'Arrange' }).click()
    await page.getByPlaceholder('Add a person, team, address').fill('Dragana')
    await page.getByRole('option', { name: /Dragana/ }).click()
    await page.getByLabel('Go to a date').fill('22 dec')
    await page.keyboard.press('Enter')
    await page.getByLabel('Title').fill(title)
    await expect(lane(page, 'Dragana')).toBeVisible()
    const track = await lane(page, page === ilse ? 'Ilse' : 'Henrike').boundingBox()
    if (!track) throw new Error('no lane')
    // 19:00 on the 22nd, when every room is free.
    await page.mouse.click(track.x + (track.width * 19.25) / 24, track.y + track.height / 2)
    await page.getByRole('button', { name: /^and \d+ more$/ }).click()
    await page
      .getByRole('dialog', { name: 'More places free then' })
      .getByRole('button', { name: /^Serac/ })
      .click()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: /^Send 1 invitation/ }).click()
    await expect(page.getByRole('button', { name: 'Send 1 invitation and take Serac' })).toBeVisible()
  }
  // Ilse's own lanes would warn her at once: the live events are held back, as on a bad line.
  await ilse.context().setOffline(true)
  await henrike.getByRole('button', { name: 'Send 1 invitation and take Serac' }).click()
  await expect(henrike.getByRole('dialog', { name: 'First come' })).toBeVisible()
  await ilse.route('**/api/reservations*', (route) => route.abort())
  await ilse.context().setOffline(false)
  await ilse.getByRole('button', { name: 'Send 1 invitation and take Serac' }).click()
  await expect(ilse.getByRole('alert')).toContainText(
    /Serac is taken at 19:\d\d: Henrike Aasland has it .* Your other choices are kept\. Free then: /,
  )
  await ilse.unroute('**/api/reservations*')
  await ilse.getByRole('button', { name: /Take Moraine instead/ }).click()
  await ilse.getByRole('button', { name: 'Send 1 invitation and take Moraine' }).click()
  await expect(ilse.getByRole('dialog', { name: 'Too late' }).getByText('0 of 1 said yes')).toBeVisible()
})
