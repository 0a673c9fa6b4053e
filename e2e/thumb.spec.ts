import { expect } from '@playwright/test'
import { test } from './journey.ts'
import {
  allTold,
  expectAccessible,
  expectNoSideways,
  expectThumbs,
  sendAs,
  sheetOf,
  signIn,
} from './person.ts'
import { MARMOT } from './ports.ts'

test('with a thumb: my day, an answer, a meeting moved, a colleague’s hour', async ({ browser }) => {
  const title = 'Ridge radio'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(ilse, { title, starts: '2026-11-24T16:20', names: ['Catalina Reyes'] })
  await allTold(ilse, entryId)

  const phone = await signIn(browser, 'Catalina Reyes', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  // My day runs downward, with room for its words.
  await phone.getByRole('link', { name: 'My time' }).tap()
  const days = phone.getByRole('grid', { name: 'My days' })
  await expect(days.getByRole('gridcell', { name: /^Monday 23 November/ })).toBeVisible()
  await phone.getByRole('button', { name: /^Tuesday 24 November/ }).tap()
  const block = days.getByTitle(new RegExp(`12:20 to 13:20, ${title}`))
  await expect(block).toContainText('answer?')
  await expectNoSideways(phone)
  await expectAccessible(phone, 'A day on a phone')
  const box = await block.boundingBox()
  expect(box?.height ?? 0).toBeGreaterThanOrEqual(44)

  // Answered where it stands.
  await block.tap()
  await expectThumbs(phone, 'An invitation on a phone')
  await sheetOf(phone, title).getByRole('button', { name: 'Yes, I come' }).tap()
  await expect(phone.getByText(`You said yes: ${title}`)).toBeVisible()
  await phone.keyboard.press('Escape')
  await expect(block).not.toContainText('answer?')

  // Something of her own stands at the same time: a thumb reaches both.
  const made = await phone.request.post(`${MARMOT}/api/entries`, {
    headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
    data: {
      starts: '2026-11-24T16:20',
      minutes: 60,
      zone: 'Europe/Vienna',
      title: 'Battery delivery',
    },
  })
  expect(made.status(), await made.text()).toBe(200)
  for (const name of ['Battery delivery', title]) {
    const one = days.getByTitle(`12:20 to 13:20, ${name}`)
    const words = await one.getByText(name).boundingBox()
    await phone.touchscreen.tap((words?.x ?? 0) + 4, (words?.y ?? 0) + 4)
    await expect(sheetOf(phone, name)).toBeVisible()
    await phone.keyboard.press('Escape')
  }

  // The one who organizes it moves it, on a phone, too.
  const mine = await signIn(browser, 'Ilse Brandacher', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  await mine.goto(`${MARMOT}/time?day=2026-11-24`)
  await mine.getByRole('grid', { name: 'My days' }).getByTitle(`16:20 to 17:20, ${title}`).tap()
  await sheetOf(mine, title).getByRole('button', { name: 'Change…' }).tap()
  const change = sheetOf(mine, `Change ${title}`)
  await expectThumbs(mine, 'A meeting that is changed on a phone')
  await change.getByLabel('From').fill('17:00')
  await expect(change).toContainText('Tuesday 24 November, 17:00 to 18:00')
  await change.getByRole('button', { name: /^Change it and tell/ }).tap()
  await expect(days.getByTitle(new RegExp(`13:00 to 14:00, ${title}`))).toBeVisible()

  // What time is it for Tashi, and is he free?
  await phone.getByRole('link', { name: 'People' }).tap()
  await phone.getByLabel('Find a person').fill('tashi')
  await expect(phone.getByRole('grid', { name: 'Everybody today' })).toContainText(/Kathmandu 1\d:\d\d/)
  await expect(phone.getByRole('gridcell', { name: /^Tashi Lhendup, 1\d:\d\d there, / })).toBeVisible()
  await expectAccessible(phone, 'People on a phone')
})
