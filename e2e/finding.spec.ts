import { expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { arrangeWith, expectAccessible, lane, more, signIn, tabTo } from './person.ts'
import { MARMOT } from './ports.ts'

const HEADS = ['Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes', 'Declan Furey', 'Aroha Pene']

test('six people in six zones have no hour in common: who is in the way, what helps, a hold', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, HEADS)
  await ilse.getByRole('button', { name: /^Length/ }).click()
  await ilse.getByRole('button', { name: '1 h', exact: true }).click()
  await ilse.getByLabel('Title').fill('Station heads, winter plan')

  const tray = ilse.getByRole('region', { name: 'This meeting' })
  await expect(tray.getByText('No time suits everybody.')).toBeVisible()
  const help = ilse.getByRole('group', { name: 'What would help' })
  await expect(help.getByRole('button', { name: /times?$/ }).first()).toBeVisible()
  await expectAccessible(ilse, 'Arrange, nothing suits')
  await help
    .getByRole('button', { name: /times?$/ })
    .first()
    .click()
  const cards = ilse.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await expect(cards.first()).toBeVisible()
  await cards.first().getByRole('button').first().click()
  for (const name of HEADS) await expect(lane(ilse, name)).toHaveAccessibleName(/, free/)

  // The brief is in the address: somebody who opens it has the same people in hand.
  await expect(ilse).toHaveURL(/brief=/)
  const colleague = await signIn(browser, 'Henrike Aasland')
  await colleague.goto(ilse.url())
  await expect(lane(colleague, 'Aroha Pene')).toBeVisible()
  await expect(colleague.getByLabel('Title')).toHaveValue('Station heads, winter plan')

  // Two sites get a room each, matched with how many are there.
  await tray.getByRole('button', { name: /^Places needed/ }).click()
  await ilse.getByRole('button', { name: 'A particular kind of place' }).click()
  await ilse.getByRole('button', { name: 'Another place' }).click()
  await ilse.getByRole('group', { name: 'Place 2' }).getByLabel('Where').selectOption({ label: 'Nairobi' })
  await ilse.keyboard.press('Escape')
  await expect(tray.getByText('Fits best:')).toBeVisible()
  const rooms = await tray.getByText('Fits best:').locator('xpath=..').locator('b').allInnerTexts()
  expect(rooms).toHaveLength(2)
  for (const room of rooms) await expect(lane(ilse, room)).toHaveAccessibleName(/, free/)

  // Held by one press, with both rooms; seen as held by the other.
  await more(ilse)
  await ilse.getByRole('button', { name: 'Hold for 15 min' }).click()
  await expect(ilse.getByRole('button', { name: /^Held until/ })).toBeVisible()
  await ilse.keyboard.press('Escape')
  await expect(lane(colleague, 'Ilse Brandacher')).toHaveAccessibleName(/held/)
  for (const room of rooms) await expect(lane(ilse, room)).toHaveAccessibleName(/, free/)

  // Sending takes what was held.
  await tray.getByRole('button', { name: 'Send 5 invitations…' }).click()
  const look = ilse.getByRole('dialog', { name: 'Station heads, winter plan' })
  await look.getByRole('button', { name: new RegExp(`take ${rooms[0]} and ${rooms[1]}$`) }).click()
  await expect(ilse.getByText('5 people are told in 20 seconds')).toBeVisible()
  const meeting = ilse.getByRole('dialog', { name: 'Station heads, winter plan' })
  for (const room of rooms) await expect(meeting.getByText(room).first()).toBeVisible()
  await expect(lane(colleague, 'Ilse Brandacher')).toHaveAccessibleName(/busy/)
})

test('the hours are shared: who bore them lately is said in the comparison, and somebody out is out for a moment', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, HEADS)
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  const cards = ilse.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await expect(tray.getByText('No time suits everybody.')).toBeVisible()
  await tray.getByText(/^Why not on/).click()
  await expect(tray.getByRole('listitem').filter({ hasText: 'Tashi is away until' }).first()).toBeVisible()
  // Without Aroha and Tashi for a moment there are openings; they stay in the brief and on their lanes.
  for (const name of ['Aroha Pene', 'Tashi Lhendup']) {
    await ilse.getByRole('button', { name: `What to do with ${name}` }).click()
    await ilse.getByRole('menuitem', { name: 'Leave out for a moment' }).click()
  }
  await expect(cards.first()).toContainText('all 4 free')
  await expect(lane(ilse, 'Aroha Pene')).toBeVisible()
  await expect(tray.getByRole('button', { name: /^Send 5 invitations/ })).toBeVisible()
  await ilse.keyboard.press('c')
  const sheet = ilse.getByRole('dialog', { name: 'Side by side' })
  await expect(sheet.getByRole('row', { name: /Aroha Pene/ })).toContainText(/outside hours lately/)
  await expect(sheet.getByRole('img', { name: /Minutes outside hours/ })).toBeVisible()
  await expectAccessible(ilse, 'Side by side')
})

test('any two of a group are enough; the brief is kept as a template and used again', async ({ browser }) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, HEADS)
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  const cards = ilse.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await tray.getByRole('button', { name: /^People: / }).click()
  const people = ilse.getByRole('dialog', { name: 'People' })
  await people.getByLabel('Wanjiru Kamande').selectOption({ label: 'one of a new group' })
  for (const name of ['Tashi Lhendup', 'Catalina Reyes', 'Declan Furey', 'Aroha Pene'])
    await people.getByLabel(name).selectOption({ label: 'one of group 1' })
  await people.getByLabel('Name of the group').fill('stations')
  await people.getByLabel('At least, of 5').fill('2')
  await expectAccessible(ilse, 'Groups')
  await ilse.keyboard.press('Escape')
  await expect(tray.getByRole('button', { name: 'People: 6 people · any 2 of stations' })).toBeVisible()
  await expect(cards.first()).toBeVisible()

  await more(ilse)
  await ilse.getByRole('button', { name: 'Keep as a template' }).click()
  await ilse.getByLabel('Name of the template').fill('Two stations')
  await ilse.keyboard.press('Enter')
  await expect(ilse.getByText('Kept: Two stations')).toBeVisible()
  await ilse.getByRole('button', { name: 'Begin anew' }).click()
  await expect(lane(ilse, 'Aroha Pene')).toBeHidden()
  await tray.getByRole('button', { name: 'Two stations', exact: true }).click()
  await expect(lane(ilse, 'Aroha Pene')).toBeVisible()
  await expect(tray.getByRole('button', { name: 'People: 6 people · any 2 of stations' })).toBeVisible()
  await expect(cards.first()).toBeVisible()
})

/** Somebody is away on a day, by their own entry. */
const away = async (page: Page, day: string) => {
  const made = await page.request.post(`${MARMOT}/api/entries`, {
    headers: { 'idempotency-key': `away ${day}`, origin: MARMOT },
    data: { starts: `${day}T00:00`, minutes: 1440, zone: 'Europe/Vienna', title: 'Field day', shows: 'away' },
  })
  expect(made.status(), await made.text()).toBeLessThan(300)
}

test('a fortnightly series through both changes of clocks is made by keyboard alone, its clashes repaired: two journeys and two holidays', async ({
  browser,
}) => {
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  // The third and the seventh of the dates: Mondays from 15 March on, over the changes of 28 March and 4 April.
  for (const day of ['2027-04-12', '2027-06-07']) await away(matteo, day)
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const press = (...keys: string[]) =>
    keys.reduce((done, key) => done.then(() => ilse.keyboard.press(key)), Promise.resolve())
  await press('3')
  await expect(ilse.getByPlaceholder('Add a person, team, address')).toBeVisible()
  for (const name of ['Matteo Ruprechter', 'Catalina Reyes']) {
    await press('/')
    await ilse.keyboard.type(name)
    await expect(ilse.getByRole('option', { name: new RegExp(name) })).toBeVisible()
    await press('Enter')
    await expect(lane(ilse, name)).toBeVisible()
    await press('Escape')
  }
  await tabTo(ilse, ilse.getByRole('button', { name: /^When/ }))
  await press('Enter')
  await tabTo(ilse, ilse.getByLabel('To', { exact: true }))
  await ilse.keyboard.type('03282027')
  await tabTo(ilse, ilse.getByLabel('From', { exact: true }))
  await ilse.keyboard.type('03152027')
  await press('Escape')
  await expect(
    ilse.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem').first(),
  ).toContainText('Mon 15 Mar')
  await press('n')
  await expect(ilse.getByText(/^Monday 15 March/)).toBeVisible()
  // Both clocks change, not in the same week: half past one becomes half past eight in Santiago, so two hours later.
  await tabTo(ilse, lane(ilse, 'Ilse Brandacher'))
  for (let quarter = 0; quarter < 8; quarter++) await press('ArrowRight')
  await expect(ilse.getByText(/^Monday 15 March 2027, 15:30/)).toBeVisible()
  await press('r')
  const sheet = ilse.getByRole('dialog', { name: 'A series' })
  await expect(sheet.getByLabel('Title')).toBeFocused()
  await ilse.keyboard.type('Fortnightly core call')
  await tabTo(ilse, sheet.getByLabel('How often'))
  await ilse.keyboard.type('Every 2')
  await tabTo(ilse, sheet.getByLabel('How many dates'))
  await ilse.keyboard.type('12')
  const dates = sheet.getByRole('region', { name: 'Dates' }).getByRole('listitem')
  await expect(dates).toHaveCount(12)
  await expect(sheet.getByRole('button', { name: /^as chosen: .* 4 clashes$/ })).toBeVisible()
  await expect(dates.filter({ hasText: 'Matteo is away' })).toHaveCount(3)
  await expect(dates.filter({ hasText: 'Ilse is away: Easter Monday' })).toHaveCount(1)
  await expect(dates.filter({ hasText: 'Catalina is away: Indigenous People’s Day' })).toHaveCount(1)
  await expectAccessible(ilse, 'A series')
  await tabTo(ilse, sheet.getByRole('button', { name: 'Repair 4 clashes' }))
  await press('Enter')
  await expect(dates.filter({ hasText: 'another day that week' })).toHaveCount(4)
  await expect(dates.filter({ hasText: 'Matteo is away' })).toHaveCount(0)
  await tabTo(ilse, sheet.getByRole('button', { name: /^Make 12 dates/ }))
  await press('Enter')
  await expect(ilse.getByRole('dialog', { name: 'Fortnightly core call' })).toBeVisible()
})
