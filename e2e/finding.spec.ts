import { expect, type Page, test } from '@playwright/test'
import { expectAccessible, lane, signIn, tabTo } from './person.ts'

const HEADS = ['Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes', 'Declan Furey', 'Aroha Pene']

const arrangeWith = async (page: Page, names: readonly string[]) => {
  await page.getByRole('link', { name: 'Arrange' }).click()
  const search = page.getByPlaceholder('Add a person, team, address')
  for (const name of names) {
    await search.fill(name)
    await page
      .getByRole('option', { name: new RegExp(name) })
      .first()
      .click()
    await expect(lane(page, name)).toBeVisible()
  }
}

test('six people in six zones have no hour in common: who is in the way, what helps, a hold', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, HEADS)
  await ilse.getByRole('button', { name: /^Length/ }).click()
  await ilse.getByRole('button', { name: '1 h', exact: true }).click()
  await ilse.getByLabel('Title').fill('Station heads, winter plan')

  const tray = ilse.getByRole('region', { name: 'The brief in hand' })
  await expect(tray.getByText('No time suits everybody.')).toBeVisible()
  const help = ilse.getByRole('group', { name: 'What would help' })
  await expect(help.getByRole('button', { name: /opening/ }).first()).toBeVisible()
  await expectAccessible(ilse, 'Arrange, nothing suits')
  await help
    .getByRole('button', { name: /opening/ })
    .first()
    .click()
  const cards = ilse.getByRole('list', { name: 'Openings, best first' }).getByRole('listitem')
  await expect(cards.first()).toBeVisible()
  await cards.first().getByRole('button').first().click()
  for (const name of HEADS) await expect(lane(ilse, name)).toHaveAccessibleName(/, free/)

  // The brief is in the address: somebody who opens it has the same people in hand.
  await expect(ilse).toHaveURL(/brief=/)
  const colleague = await signIn(browser, 'Henrike Aasland')
  await colleague.goto(ilse.url())
  await expect(lane(colleague, 'Aroha Pene')).toBeVisible()
  await expect(colleague.getByLabel('Title')).toHaveValue('Station heads, winter plan')

  // Held by one press, seen as held by the other, let go by another press.
  await tray.getByRole('button', { name: 'Hold for 15 min' }).click()
  await expect(tray.getByRole('button', { name: /^Held until/ })).toBeVisible()
  await expect(lane(colleague, 'Ilse Brandacher')).toHaveAccessibleName(/held/)
  await tray.getByRole('button', { name: /^Held until/ }).click()
  await expect(lane(colleague, 'Ilse Brandacher')).not.toHaveAccessibleName(/held/)
})

test('a fortnightly series through both changes of clocks is made by keyboard alone, its clashes repaired', async ({
  browser,
}) => {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const press = (...keys: string[]) =>
    keys.reduce((done, key) => done.then(() => ilse.keyboard.press(key)), Promise.resolve())
  await press('3')
  await expect(ilse.getByPlaceholder('Add a person, team, address')).toBeVisible()
  await press('/')
  await ilse.keyboard.type('Matteo Ruprechter')
  await expect(ilse.getByRole('option', { name: /Matteo/ })).toBeVisible()
  await press('Enter')
  await expect(lane(ilse, 'Matteo Ruprechter')).toBeVisible()
  await press('Escape')
  await tabTo(ilse, ilse.getByRole('button', { name: 'Series…' }))
  await press('Enter')
  const sheet = ilse.getByRole('dialog', { name: 'A series' })
  await expect(sheet.getByLabel('Title')).toBeFocused()
  await ilse.keyboard.type('Fortnightly core call')
  await tabTo(ilse, sheet.getByLabel('How often'))
  await ilse.keyboard.type('Every 2')
  await tabTo(ilse, sheet.getByLabel('How many dates'))
  await ilse.keyboard.type('12')
  const slots = sheet.getByRole('group', { name: /fewest clashes first/ }).getByRole('button')
  await expect(slots.first()).toBeVisible()
  await expect(sheet.getByRole('region', { name: 'Dates' }).getByRole('listitem')).toHaveCount(12)
  await expectAccessible(ilse, 'A series')
  const repairAll = sheet.getByRole('button', { name: /^Repair/ })
  if (await repairAll.isVisible()) {
    await tabTo(ilse, repairAll)
    await press('Enter')
    await expect(repairAll).toBeHidden()
  }
  await tabTo(ilse, sheet.getByRole('button', { name: /^Make 12 dates/ }))
  await press('Enter')
  await expect(ilse.getByRole('dialog', { name: 'Fortnightly core call' })).toBeVisible()
})
