import { type Browser, expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { arrangeWith, expectAccessible, expectNoSideways, more, openLetter, signIn } from './person.ts'

const LINK = /http:\/\/localhost:\d+\/q\/\S+/

/** Opens a poll as a guest does, by the link in the letter to them. */
const openAsked = async (browser: Browser, address: string, title: string, phone = false): Promise<Page> => {
  const page = await (
    await browser.newContext(
      phone ? { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true } : {},
    )
  ).newPage()
  await openLetter(page, address, new RegExp(`^Which times suit you\\? ${title}`))
  await page.goto(LINK.exec((await page.locator('pre').first().textContent()) ?? '')?.[0] ?? '')
  await expect(page.getByRole('heading', { name: title })).toBeVisible()
  return page
}

/** Marks the times one after the other, and sends it. */
const mark = async (page: Page, ...marks: ('yes' | 'if need be' | 'no')[]) => {
  for (const [i, words] of marks.entries())
    await page.getByRole('group').nth(i).getByText(words, { exact: true }).click()
  await page.getByRole('button', { name: 'Send my answer' }).click()
  await expect(page.getByText('Thank you. You can change it until')).toBeVisible()
}

const GUESTS = [
  ['Rosa Quispe', 'rosa'],
  ['Kofi Mensah', 'kofi'],
  ['Priya Nair', 'priya'],
] as const

test('several are asked which of five times suit; all mark, one on a phone, one proposes another; one press makes the meeting with its room', async ({
  browser,
}) => {
  const title = 'Where the cores are kept'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await arrangeWith(ilse, ['Matteo Ruprechter', 'Tashi Lhendup'])
  const search = ilse.getByPlaceholder('Add a person, team, address')
  for (const [name, box] of GUESTS) {
    await search.fill(`${name} <${box}@lodestar.example>`)
    await ilse.getByRole('option', { name: new RegExp(`${box}@lodestar`) }).click()
  }
  await ilse.getByLabel('Title').fill(title)
  await more(ilse)
  await ilse.getByRole('button', { name: 'Ask which times suit…' }).click()
  const sheet = ilse.getByRole('region', { name: 'Ask which times suit' })
  await expect(sheet.locator('ol').getByRole('listitem')).toHaveCount(5)
  await sheet.getByLabel('With a room that seats all').check()
  await expectAccessible(ilse, 'Asking')
  await sheet.getByRole('button', { name: 'Ask 5 people about 5 times' }).click()
  await expect(ilse.getByRole('heading', { name: title })).toBeVisible()
  await expect(ilse.getByText('0 of 5 have answered.')).toBeVisible()
  await expectAccessible(ilse, 'What everybody says')

  const rosa = await openAsked(browser, 'rosa@lodestar.example', title)
  await expectAccessible(rosa, 'A poll for a guest')
  await mark(rosa, 'no', 'yes', 'if need be', 'no', 'no')
  const kofi = await openAsked(browser, 'kofi@lodestar.example', title, true)
  await expectNoSideways(kofi)
  await mark(kofi, 'no', 'yes', 'no', 'no', 'no')
  // What Rosa said is there; nobody's calendar is.
  await expect(kofi.getByText('Others: 1 yes (Rosa Quispe)')).toBeVisible()
  const priya = await openAsked(browser, 'priya@lodestar.example', title)
  await mark(priya, 'no', 'yes', 'no', 'no', 'no')
  await priya.getByRole('button', { name: 'Propose another time…' }).click()
  await priya.getByLabel('Day', { exact: true }).fill('11 dec')
  await priya.getByLabel('From', { exact: true }).fill('10:00')
  await priya.getByRole('button', { name: 'Ask about this time, too' }).click()
  await expect(priya.getByRole('heading', { name: 'Friday 11 December' })).toBeVisible()

  // Colleagues find it under Now, filled in from their calendars, and in their own day.
  for (const name of ['Matteo Ruprechter', 'Tashi Lhendup']) {
    const page = await signIn(browser, name)
    await page
      .getByRole('region', { name: 'Which times suit you?' })
      .getByRole('link', { name: title })
      .click()
    await expect(page.getByText('Filled in from your calendar')).toBeVisible()
    await expect(page.getByRole('grid', { name: /^My / }).first()).toBeVisible()
    await page.getByRole('group').nth(1).getByText('yes', { exact: true }).click()
    await page.getByRole('button', { name: 'Send my answer' }).click()
    await expect(page.getByText('Thank you. You can change it until')).toBeVisible()
  }

  // Live: nothing was reloaded.
  await expect(ilse.getByText('5 of 5 have answered.')).toBeVisible()
  await expect(ilse.getByText('which suits all who have to be there')).toBeVisible()
  await ilse.getByRole('button', { name: 'Choose a time…' }).click()
  const choose = ilse.getByRole('button', { name: /^Choose it: 5 invitations and / })
  const room = ((await choose.textContent()) ?? '').split(' and ').at(-1) ?? ''
  await expectAccessible(ilse, 'Choosing a time')
  await choose.click()
  const meeting = ilse.getByRole('dialog', { name: title })
  await expect(meeting.getByText(room).first()).toBeVisible()
  await ilse.keyboard.press('Escape')
  await expect(ilse.getByRole('region', { name: 'Times you ask about' })).toBeHidden()

  // One letter that asked, one that invites, and nothing is held any more.
  await openLetter(rosa, 'rosa@lodestar.example', new RegExp(`^Invitation: ${title}`))
  await rosa.goto(`${new URL(rosa.url()).origin}/box/rosa%40lodestar.example`)
  await expect(rosa.getByRole('link', { name: new RegExp(`${title}(,|$)`) })).toHaveCount(2)
  const held = await ilse.evaluate(async () => {
    const range = 'from=2026-11-23T00:00:00Z&to=2026-12-20T00:00:00Z'
    const { occurrences } = await (await fetch(`/api/entries?${range}`)).json()
    return occurrences.filter((one: { title: string }) => one.title.startsWith('Held: ')).length
  })
  expect(held).toBe(0)
  await kofi.reload()
  await expect(kofi.getByText('You are invited')).toBeVisible()
})

test('anyone may answer by one link; their answer is theirs to change; the one who asked takes it all back', async ({
  browser,
}) => {
  const title = 'Open hut day'
  const page = await signIn(browser, 'Tashi Lhendup')
  await page.getByRole('link', { name: 'Arrange' }).click()
  await page.getByLabel('Title').fill(title)
  await page.getByPlaceholder('Add a person, team, address').fill('Nobody <nobody@lodestar.example>')
  await page.getByRole('option', { name: /nobody@lodestar/ }).click()
  await page.keyboard.press('Escape')
  await more(page)
  await page.getByRole('button', { name: 'Ask which times suit…' }).click()
  const sheet = page.getByRole('region', { name: 'Ask which times suit' })
  await expect(sheet.locator('ol').getByRole('listitem')).toHaveCount(5)
  await sheet.getByText('How they are asked').click()
  await sheet.getByLabel('Anyone who has one link may answer, too').check()
  await sheet.getByRole('button', { name: /^Ask 1 person about 5 times/ }).click()
  const link = (await page.getByRole('region', { name: 'Link for all' }).locator('code').textContent()) ?? ''

  const guest = await (await browser.newContext()).newPage()
  await guest.goto(link)
  await expect(guest.getByRole('heading', { name: title })).toBeVisible()
  for (const i of [0, 1]) await guest.getByRole('group').nth(i).getByText('yes', { exact: true }).click()
  await expect(guest.getByText('Your name is missing.')).toBeVisible()
  await guest.getByLabel('Your name').fill('Lena')
  await guest.getByLabel('Your e-mail address').fill('lena@lodestar.example')
  await guest.getByRole('button', { name: 'The other 3 do not suit me' }).click()
  await guest.getByRole('button', { name: 'Send my answer' }).click()
  await expect(guest.getByText('Hello Lena')).toBeVisible()
  await expect(page.getByText('1 of 2 have answered.')).toBeVisible()
  // By the link for all again, they find what they said.
  await guest.goto(link)
  await expect(guest.getByText('Hello Lena')).toBeVisible()
  await guest.getByRole('group').first().getByText('no', { exact: true }).click()
  await guest.getByRole('button', { name: 'Send what I changed' }).click()
  await expect(guest.getByText('Thank you.')).toBeVisible()

  await page.getByRole('button', { name: 'Ask no more' }).click()
  await expect(guest.getByText(/does not ask about these times any more/)).toBeVisible()
})
