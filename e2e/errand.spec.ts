import { expect, test } from '@playwright/test'
import { expectAccessible, LETTERS, lane, MARMOT, openLetter, signIn } from './person.ts'

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

  // The openings explain themselves; the second card is on another day than the first.
  const cards = ilse.getByRole('list', { name: 'Openings, best first' }).getByRole('button')
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
  const words = ilse.getByRole('region', { name: 'The brief in hand' })
  const before = await words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/).textContent()
  await ilse.mouse.move(box.x + box.width / 2, box.y + 40)
  await ilse.mouse.down()
  await ilse.mouse.move(box.x + box.width / 2 - 300, box.y + 40, { steps: 8 })
  await expect(ilse.locator('.drag-words')).toContainText(/in \d+ days|today|tomorrow/)
  await ilse.mouse.up()
  await expect(words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/)).not.toHaveText(before ?? '')
  await ilse.keyboard.press('Control+z')
  await expect(words.getByText(/^\w+day \d+ \w+, \d\d:\d\d to/)).toHaveText(before ?? '')

  await ilse.getByRole('group', { name: 'Places free then' }).getByRole('button', { name: /^Col/ }).click()
  await expect(lane(ilse, 'Col')).toHaveAccessibleName(/, free/)
  await ilse.getByRole('button', { name: 'Send 5 invitations…' }).click()
  await expectAccessible(ilse, 'Before it goes')
  await ilse.getByRole('button', { name: 'Send 5 invitations and take Col' }).click()

  const sheet = ilse.getByRole('dialog', { name: 'Firn core review' })
  await expect(sheet.getByText('0 of 5 said yes, 5 have not answered')).toBeVisible()
  await expect(sheet.getByText('invitation sent').first()).toBeVisible()
  await expectAccessible(ilse, 'Following the answers')

  // Tashi finds it under Now, with the day around it.
  const tashi = await signIn(browser, 'Tashi Lhendup')
  const invitation = tashi.getByRole('listitem').filter({ hasText: 'Firn core review' }).first()
  const opener = invitation.getByRole('button', { name: 'See it in your day and answer' })
  if (await opener.isVisible()) await opener.click()
  await expect(invitation.getByRole('grid', { name: /My day around it/ })).toBeVisible()
  await invitation.getByLabel('A message to Ilse Brandacher').fill('See you there')
  await invitation.getByRole('button', { name: 'Accept' }).click()
  await expect(tashi.getByText(/Accepted: Firn core review/)).toBeVisible()

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
  await guest.getByRole('button', { name: 'Tentative' }).click()
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

test('the same errand by keyboard alone', async ({ browser }) => {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await page.goto(MARMOT)
  await expectAccessible(page, 'Signing in')
  const press = (...keys: string[]) =>
    keys.reduce((done, key) => done.then(() => page.keyboard.press(key)), Promise.resolve())
  await page.getByRole('button', { name: /Ilse Brandacher/ }).focus()
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
  await press('Escape')
  // Twice the next opening, then from lane to lane and the time by a step and back.
  await expect(page.getByRole('list', { name: 'Openings, best first' })).toBeVisible()
  await press('n', 'n')
  await lane(page, 'Ilse Brandacher').focus()
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
  // The title, then a place.
  await page.getByLabel('Title').focus()
  await page.keyboard.type('Keyboard review')
  const place = page.getByRole('group', { name: 'Places free then' }).getByRole('button').first()
  await place.focus()
  const name = ((await place.textContent()) ?? '').split(' ')[0] ?? ''
  await press('Space')
  await expect(
    page.getByRole('group', { name: 'Places free then' }).getByRole('button', { pressed: true }),
  ).toContainText(name)
  await press('s')
  const send = page.getByRole('button', { name: new RegExp(`Send 4 invitations and take ${name}`) })
  await expect(send).toBeFocused()
  await press('Enter')
  await expect(
    page.getByRole('dialog', { name: 'Keyboard review' }).getByText(/0 of 4 said yes/),
  ).toBeVisible()
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
    await page
      .getByRole('group', { name: 'Places free then' })
      .getByRole('button', { name: /^Serac/ })
      .click()
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
