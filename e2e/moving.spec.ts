import { expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import {
  allTold,
  expectAccessible,
  expectNoSideways,
  lane,
  openLetter,
  openMyTime,
  sendAs,
  sheetOf,
  signIn,
  tabTo,
} from './person.ts'
import { LETTERS } from './ports.ts'

const PEOPLE = ['Matteo Ruprechter', 'Wanjiru Kamande', 'Tashi Lhendup', 'Catalina Reyes']
const GUEST = 'mira.solberg@lodestar.example'
const TASHI = 'tashi.lhendup@corrie.example'

const HALL = 'Névé Hall'

/**
 * Sends a meeting of Ilse, four colleagues in four zones and a guest, as she would have an hour ago, with a room.
 */
const sendMeeting = (page: Page, title: string, starts: string): Promise<string> =>
  sendAs(page, {
    title,
    starts,
    names: PEOPLE,
    place: HALL,
    guests: [{ address: GUEST, name: 'Mira Solberg', required: true }],
  })

/** How many letters about something a mailbox has. */
const lettersTo = async (page: Page, address: string, subject: RegExp) => {
  await page.goto(`${LETTERS}/box/${encodeURIComponent(address)}`)
  return page.getByRole('link', { name: subject }).count()
}

const block = (page: Page, title: string) => page.locator(`.stint[title*="${title}"]`).first()

const drag = async (page: Page, title: string, hours: number) => {
  const box = await block(page, title).boundingBox()
  if (!box) throw new Error('nothing to drag')
  const at = { x: box.x + box.width / 2, y: box.y + box.height / 2 }
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + (hours * box.width) / 2, at.y, { steps: 4 })
  await page.mouse.move(at.x + hours * box.width, at.y, { steps: 4 })
  await page.mouse.up()
}

test('Ilse drags a meeting of six people in four zones and a room to another hour, and thinks better of it once', async ({
  browser,
}) => {
  const title = 'Moulin survey'
  const page = await openMyTime(browser, 'Ilse Brandacher')
  const entryId = await sendMeeting(page, title, '2026-11-26T14:00')
  const tashi = await signIn(browser, 'Tashi Lhendup')
  await tashi.goto(`${new URL(tashi.url()).origin}/now?meeting=${entryId}`)
  await sheetOf(tashi, title).getByRole('button', { name: 'Yes, I come' }).click()
  await expect(tashi.getByText(/You said yes: Moulin survey/)).toBeVisible()
  await page.reload()
  await expect(block(page, title)).toBeVisible()
  await allTold(page, entryId)

  // Dragged two hours on: the last look has each one's own hours, and whose answer is asked again.
  await drag(page, title, 2)
  const look = sheetOf(page, `Change ${title}`)
  await expect(look).toContainText('Thursday 26 November, 16:00 to 17:00, in 3 days')
  const row = (name: string) => look.getByRole('listitem').filter({ hasText: name })
  await expect(row('Tashi Lhendup')).toContainText('is told, and asked again')
  await expect(row('Tashi Lhendup')).toContainText('20:45 to 21:4518:45 to 19:45')
  await expect(row('Wanjiru Kamande')).toContainText('is told; has not answered')
  await expect(row('Mira Solberg')).toContainText('guest')
  await expectAccessible(page, 'The last look at a change')
  await look.getByRole('button', { name: 'Change it and tell 5 people' }).click()
  await expect(page.getByText(/^Moved Moulin survey.*5 people are told in 20 seconds/)).toBeVisible()
  await page.getByRole('button', { name: 'Take back' }).click()
  await expect(page.getByText('Taken back. Nobody was told.')).toBeVisible()
  await expect(page.getByTitle(`14:00 to 15:00, ${title}`)).toBeVisible()

  // Then for good, half an hour longer, by typing.
  await drag(page, title, 1)
  await expect(look).toContainText('15:00 to 16:00')
  await look.getByLabel('Until, or length').fill('90m')
  await expect(look).toContainText('15:00 to 16:30')
  await look.getByRole('button', { name: 'Change it and tell 5 people' }).click()
  await expect(page.getByTitle(`15:00 to 16:30, ${title}`)).toBeVisible()
  await allTold(page, entryId)

  // One letter of it to each, one SEQUENCE on, and Tashi's screen asks again.
  await tashi.reload()
  await expect(sheetOf(tashi, title)).toContainText('5 have not answered')
  const post = await (await browser.newContext()).newPage()
  expect(await lettersTo(post, TASHI, new RegExp(`Changed: ${title}`))).toBe(1)
  expect(await lettersTo(post, GUEST, new RegExp(`Changed: ${title}`))).toBe(1)
  await openLetter(post, GUEST, new RegExp(`Changed: ${title}`))
  await expect(post.getByText(/Thursday 26 November, 15:00 to 16:30/).first()).toBeVisible()
  await expect(post.getByText(/SEQUENCE:1/)).toHaveCount(1)
})

test('a sent meeting is taken in hand again, finds another time, loses a room and gains a person', async ({
  browser,
}) => {
  const title = 'Firn line review'
  const page = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendMeeting(page, title, '2026-12-01T10:00')
  await allTold(page, entryId)
  await page.goto(`${new URL(page.url()).origin}/now?meeting=${entryId}`)
  await sheetOf(page, title).getByRole('button', { name: 'Find another time' }).click()

  // Its own time and room are in nobody's way, and the time as it is stands beside the others.
  await expect(page.getByText(`Another time for ${title}`)).toBeVisible()
  await expect(lane(page, 'Ilse Brandacher')).toHaveAccessibleName(/10:00 to 11:00, free/)
  await expect(lane(page, HALL)).toHaveAccessibleName(/free/)
  await expect(page.locator('.present')).toContainText('as it is')
  const search = page.getByPlaceholder('Add a person, team, address')
  await search.fill('Resi')
  await page.getByRole('option', { name: /Resi Oberhofer/ }).click()
  await expect(lane(page, 'Resi Oberhofer')).toBeVisible()
  await page.keyboard.press('Escape')
  await lane(page, 'Ilse Brandacher').focus()
  for (let i = 0; i < 8; i++) await page.keyboard.press('ArrowRight')
  const tray = page.getByRole('region', { name: 'This meeting' })
  await expect(tray.getByText('Tuesday 1 December, 12:00 to 13:00')).toBeVisible()
  await expectAccessible(page, 'A meeting in hand again')
  await tray.getByRole('button', { name: 'Look over the change…' }).click()
  const look = sheetOf(page, `Change ${title}`)
  await look.getByRole('button', { name: HALL }).click()
  await look.getByRole('button', { name: 'Take Mira Solberg out' }).click()
  const row = (name: string) => look.getByRole('listitem').filter({ hasText: name })
  await expect(row('Resi Oberhofer')).toContainText('is invited')
  await expect(row('Mira Solberg')).toContainText('is told not to come')
  // It is looked out for from the press on: it stands for a few seconds only.
  const sheet = sheetOf(page, title)
  const untold = sheet.getByText('Nobody was told yet').waitFor()
  await look.getByRole('button', { name: 'Change it and tell 6 people' }).click()
  await untold
  await expect(sheet).toContainText('Tuesday 1 December, 12:00 to 13:00')
  await expect(sheet).toContainText('Resi Oberhofer')
  await expect(sheet).not.toContainText('Mira Solberg')
  await allTold(page, entryId)
  await expect(sheet).not.toContainText('Nobody was told yet')

  // Cancelled with a reason; the guest, who was let off, hears nothing more of it.
  await sheet.getByRole('button', { name: 'Cancel it…' }).click()
  await sheet.getByLabel(/^Why/).fill('The line is snowed in')
  await sheet.getByRole('button', { name: 'Cancel and tell 5' }).click()
  await expect(sheet).toContainText('“The line is snowed in”')
  const post = await (await browser.newContext()).newPage()
  await openLetter(post, TASHI, new RegExp(`Cancelled: ${title}`))
  await expect(post.getByText('The line is snowed in').first()).toBeVisible()
  expect(await lettersTo(post, GUEST, new RegExp(`You are not expected: ${title}`))).toBe(1)
  expect(await lettersTo(post, GUEST, new RegExp(`Cancelled: ${title}`))).toBe(0)
})

test('by keyboard alone a meeting is taken up on My time, put down a day later, and looked over; on a phone it is typed', async ({
  browser,
}) => {
  const title = 'Sérac watch'
  const page = await openMyTime(browser, 'Ilse Brandacher')
  const entryId = await sendMeeting(page, title, '2026-11-25T13:05')
  await page.reload()
  await expect(page.getByTitle(`13:05 to 14:05, ${title}`)).toBeVisible()
  const there = page.getByRole('gridcell', { name: /^Wednesday 25 November, 13:05 to 14:05/ })
  for (let i = 0; i < 40 && !(await there.isVisible()); i++) {
    await page.keyboard.press('n')
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))))
  }
  for (const key of ['v', 'ArrowDown', 'ArrowRight', 'Enter']) await page.keyboard.press(key)
  const look = sheetOf(page, `Change ${title}`)
  await expect(look).toContainText('Thursday 26 November, 13:20 to 14:20')
  const press = look.getByRole('button', { name: 'Change it and tell 5 people' })
  await tabTo(page, press)
  await page.keyboard.press('Enter')
  await expect(page.getByTitle(`13:20 to 14:20, ${title}`)).toBeVisible()

  const phone = await signIn(browser, 'Ilse Brandacher', { viewport: { width: 390, height: 844 } })
  await phone.goto(`${new URL(phone.url()).origin}/now?meeting=${entryId}`)
  await sheetOf(phone, title).getByRole('button', { name: 'Change…' }).click()
  const small = sheetOf(phone, `Change ${title}`)
  await small.getByLabel('Day').fill('fri')
  await small.getByLabel('From').fill('9:30')
  await small.getByLabel('Until, or length').fill('45m')
  await expect(small).toContainText('Friday 27 November, 09:30 to 10:15')
  await expectNoSideways(phone)
  await expectAccessible(phone, 'A change on a phone')
  await small.getByRole('button', { name: /^Change it and tell/ }).click()
  await expect(sheetOf(phone, title)).toContainText('Friday 27 November, 09:30 to 10:15')
})
