import { expect } from '@playwright/test'
import { test } from './journey.ts'
import {
  expectAccessible,
  expectNoSideways,
  expectThumbs,
  openMyTime,
  sheetOf,
  signIn,
  tabTo,
} from './person.ts'
import { MARMOT } from './ports.ts'

const PHONE = { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true }

test('a to-do is typed in one line, given to Matteo, handed back, dragged onto free time, done', async ({
  browser,
}) => {
  const title = 'Order ice screws'
  const page = await openMyTime(browser, 'Ilse Brandacher')
  await page.keyboard.press('a')
  await page.keyboard.type('todo order ice screws due 4 dec 30m')
  await expect(page.getByRole('status').filter({ hasText: title })).toContainText(
    'due Fri 4 Dec · takes 30 min',
  )
  await page.keyboard.press('Enter')
  await expect(page.getByText(`${title} is on your list`)).toBeVisible()

  // It stands beside its day, and on the list.
  await page.getByRole('button', { name: 'Later', exact: true }).click()
  await expect(page.getByRole('button', { name: `Due: ${title}` })).toBeVisible()
  await page.getByRole('button', { name: 'To do', exact: true }).click()
  const list = sheetOf(page, 'To do')
  const row = list.getByRole('listitem').filter({ hasText: title })
  await expect(row).toContainText('due Fri 4 Dec · takes 30 min')
  await expectAccessible(page, 'What is to be done')
  await row.getByRole('button', { name: title }).click()

  // Given to a colleague, who is told.
  const sheet = sheetOf(page, title)
  await sheet.getByRole('button', { name: 'Change…' }).click()
  await sheet.getByPlaceholder('I do it. Or give it to…').fill('Matteo')
  await page.getByRole('option', { name: /Matteo Ruprechter/ }).click()
  await expectAccessible(page, 'A to-do is changed')
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet).toContainText('given to Matteo Ruprechter')

  const matteo = await signIn(browser, 'Matteo Ruprechter')
  await expect(matteo.getByRole('region', { name: 'To do' })).toBeVisible()
  await matteo.getByRole('button', { name: new RegExp(`gives you to do: ${title}`) }).click()
  const theirs = sheetOf(matteo, title)
  await expect(theirs).toContainText('from Ilse Brandacher')
  await expect(theirs.getByRole('button', { name: 'Change…' })).toHaveCount(0)
  await theirs.getByRole('button', { name: 'Give it back…' }).click()
  await theirs.getByLabel('A word to Ilse Brandacher').fill('I am in Nairobi all week')
  await expectAccessible(matteo, 'A to-do is given back')
  await theirs.getByRole('button', { name: 'Give it back', exact: true }).click()
  await expect(matteo.getByText(`Ilse Brandacher has ${title} back, and is told`)).toBeVisible()
  await expect(sheetOf(matteo, 'To do').getByText(title)).toHaveCount(0)

  // Its owner sees that at once, and why.
  await expect(sheet).not.toContainText('given to')
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await expect(ilse.getByText(`gives back ${title}`)).toContainText('“I am in Nairobi all week”')

  // Dragged onto free time it is an entry, which is tied to it and can be taken back.
  await sheet.getByRole('button', { name: 'Close' }).click()
  const sunday = page.getByRole('gridcell', { name: /^Sunday 6 December/ })
  const track = await sunday.boundingBox()
  await row.dragTo(sunday, { targetPosition: { x: (track?.width ?? 0) * 0.25, y: 10 } })
  const block = page.locator(`.stint[title*="${title}"]`)
  await expect(block).toHaveCount(1)
  await expect(row).toContainText(/time set aside Sun 6 Dec/)
  await expect(page.locator('.frame')).toHaveCount(0)
  await page.getByText(`${title} is added`).waitFor()
  await sheetOf(page, 'To do').getByRole('button', { name: 'Close' }).click()
  await page.locator('#main').focus()
  await page.keyboard.press('Control+z')
  await expect(block).toHaveCount(0)
  await page.keyboard.press('o')
  await expect(row).not.toContainText('time set aside')

  // Done with one press, and open again.
  await row.getByRole('checkbox', { name: `Done: ${title}` }).check()
  await expect(row).toHaveCount(0)
  await list.getByText(/^Done in the last two weeks/).click()
  await list.getByRole('checkbox', { name: `Done: ${title}` }).uncheck()
  await expect(row).toContainText('due Fri 4 Dec')
  await row.getByRole('checkbox', { name: `Done: ${title}` }).check()
  await expect(page.getByRole('button', { name: `Due: ${title}` })).toHaveCount(0)

  // All of them are a list as well.
  await list.getByRole('button', { name: 'Close' }).click()
  await page.getByRole('button', { name: 'List', exact: true }).click()
  await page.getByRole('link', { name: 'All to-dos' }).click()
  const table = page.getByRole('table', { name: 'To-dos' })
  await expect(table.getByRole('row', { name: new RegExp(title) })).toContainText('done')
  await page.getByLabel('Find in the to-dos').fill('bus hut')
  await expect(table.getByRole('row')).toHaveCount(2)
  await page.getByLabel('In groups').selectOption({ label: 'by whose' })
  await expect(table.getByRole('rowheader', { name: /^mine/ })).toBeVisible()
  await expectAccessible(page, 'All to-dos')
})

test('by keys alone a to-do is written, given, handed back, gets time of its own, and is done', async ({
  browser,
}) => {
  const title = 'Sharpen the drill'
  const page = await openMyTime(browser, 'Aroha Pene')
  await page.keyboard.press('o')
  const list = sheetOf(page, 'To do')
  await expect(list.getByLabel('Write a to-do in one line')).toBeFocused()
  await page.keyboard.type(`${title} wed 45m`)
  await page.keyboard.press('Enter')
  const open = list.getByRole('button', { name: title })
  await expect(open).toBeVisible()
  await tabTo(page, open)
  await page.keyboard.press('Enter')
  const sheet = sheetOf(page, title)
  await expect(sheet.getByRole('button', { name: 'Done', exact: true })).toBeFocused()

  // Given to Matteo, who gives it back with a word.
  await tabTo(page, sheet.getByRole('button', { name: 'Change…' }))
  await page.keyboard.press('Enter')
  await tabTo(page, sheet.getByPlaceholder('I do it. Or give it to…'))
  await page.keyboard.type('Matteo')
  await expect(page.getByRole('option', { name: /Matteo Ruprechter/ })).toBeVisible()
  await page.keyboard.press('Enter')
  await tabTo(page, sheet.getByRole('button', { name: 'Save' }))
  await page.keyboard.press('Enter')
  await expect(sheet).toContainText('given to Matteo Ruprechter')
  const matteo = await signIn(browser, 'Matteo Ruprechter')
  await tabTo(matteo, matteo.getByRole('button', { name: new RegExp(`gives you to do: ${title}`) }))
  await matteo.keyboard.press('Enter')
  const theirs = sheetOf(matteo, title)
  await tabTo(matteo, theirs.getByRole('button', { name: 'Give it back…' }))
  await matteo.keyboard.press('Enter')
  await tabTo(matteo, theirs.getByLabel('A word to Aroha Pene'))
  await matteo.keyboard.type('The grinder is yours')
  await tabTo(matteo, theirs.getByRole('button', { name: 'Give it back', exact: true }))
  await matteo.keyboard.press('Enter')
  await expect(matteo.getByText(`Aroha Pene has ${title} back, and is told`)).toBeVisible()
  await expect(sheet).not.toContainText('given to')

  await tabTo(page, sheet.getByRole('button', { name: 'Set time aside…' }))
  await page.keyboard.press('Enter')

  // The next free time before it is due is proposed; Enter takes it.
  const entry = sheetOf(page, 'New entry')
  await expect(entry.getByLabel('Title')).toHaveValue(title)
  await expect(entry.getByLabel('Title')).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(entry).toBeHidden()
  await expect(page.locator(`.stint[title*="${title}"]`)).toHaveCount(1)
  await page.keyboard.press('o')
  await expect(list.getByRole('listitem').filter({ hasText: title })).toContainText('time set aside')
  await tabTo(page, list.getByRole('checkbox', { name: `Done: ${title}` }))
  await page.keyboard.press('Space')
  await expect(page.getByText(`${title} is done`)).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(list).toBeHidden()
})

test('on a phone a to-do is written, given, handed back, gets time of its own, and is done', async ({
  browser,
}) => {
  const title = 'Label the cores'
  const phone = await signIn(browser, 'Tashi Lhendup', PHONE)
  await phone.getByRole('button', { name: 'All that is to be done…' }).tap()
  const list = sheetOf(phone, 'To do')
  await list.getByLabel('Write a to-do in one line').fill(`${title} thu`)
  await list.getByRole('button', { name: 'Add' }).tap()
  await expect(list.getByRole('button', { name: title })).toBeVisible()
  await expectThumbs(phone, 'What is to be done, on a phone')
  await expectNoSideways(phone)
  await expectAccessible(phone, 'What is to be done, on a phone')
  await phone.goto(`${MARMOT}/time?day=2026-11-26`)
  await phone.getByRole('button', { name: `Due: ${title}` }).tap()
  const sheet = sheetOf(phone, title)
  await expectThumbs(phone, 'A to-do on a phone')
  await sheet.getByRole('button', { name: 'Change…' }).tap()
  await sheet.getByPlaceholder('I do it. Or give it to…').fill('Matteo')
  await phone.getByRole('option', { name: /Matteo Ruprechter/ }).tap()
  await expectThumbs(phone, 'A to-do is changed on a phone')
  await sheet.getByRole('button', { name: 'Save' }).tap()
  await expect(sheet).toContainText('given to Matteo Ruprechter')
  const matteo = await signIn(browser, 'Matteo Ruprechter', PHONE)
  await matteo.getByRole('button', { name: new RegExp(`gives you to do: ${title}`) }).tap()
  const theirs = sheetOf(matteo, title)
  await theirs.getByRole('button', { name: 'Give it back…' }).tap()
  await theirs.getByLabel('A word to Tashi Lhendup').fill('I am not there')
  await theirs.getByRole('button', { name: 'Give it back', exact: true }).tap()
  await expect(matteo.getByText(`Tashi Lhendup has ${title} back, and is told`)).toBeVisible()
  await expect(sheet).not.toContainText('given to')
  await sheet.getByRole('button', { name: 'Set time aside…' }).tap()
  const entry = sheetOf(phone, 'New entry')
  await expect(entry.getByLabel('Title')).toHaveValue(title)
  await entry.getByRole('button', { name: 'Add it' }).tap()
  await expect(entry).toBeHidden()
  await phone.goto(`${MARMOT}/time?day=2026-11-26`)
  await phone.getByRole('button', { name: `Due: ${title}` }).tap()
  await expect(sheet).toContainText('Time set aside')
  await sheet.getByRole('button', { name: 'Done', exact: true }).tap()
  await expect(sheet.getByRole('button', { name: 'Not done yet' })).toBeVisible()
  await sheet.getByRole('button', { name: 'Close' }).tap()
  await expect(phone.getByRole('button', { name: `Due: ${title}` })).toHaveCount(0)
})
