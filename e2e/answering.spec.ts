import { expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import {
  allTold,
  expectAccessible,
  expectNoSideways,
  openInvitation,
  openLetter,
  sendAs,
  sheetOf,
  signIn,
  tabTo,
} from './person.ts'
import { LETTERS, MARMOT } from './ports.ts'

const GUEST = { address: 'sunniva.lie@lodestar.example', name: 'Sunniva Lie', required: true }

const invitation = (page: Page, title: string) =>
  page.getByRole('listitem').filter({ hasText: title }).first()

test('A guest proposes another time by mail, Ilse takes it with one press, and everybody is told once', async ({
  browser,
}) => {
  const title = 'Ogive survey'
  const page = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(page, {
    title,
    starts: '2026-12-01T09:00',
    names: ['Tashi Lhendup', 'Wanjiru Kamande'],
    guests: [GUEST],
  })
  await allTold(page, entryId)
  const guest = await (await browser.newContext()).newPage()
  await openLetter(guest, GUEST.address, new RegExp(`Invitation: ${title}`))
  await guest.getByLabel('Propose another time, in UTC').fill('2026-12-01T10:30')
  await guest.getByLabel('Minutes').fill('45')
  await guest.getByRole('button', { name: 'Propose it' }).click()
  await expect(guest.getByRole('status')).toContainText('Your answer was sent.')

  const card = page.getByRole('listitem').filter({ hasText: `proposes another time for ${title}` })
  await expect(card).toContainText('Tuesday 1 December, 11:30 to 12:15, in 8 days')
  await expect(card).toContainText('Now it is Tuesday 1 December, 09:00 to 10:00')
  await expect(card).not.toContainText('Looking who can come')
  await expectAccessible(page, 'A time that was proposed')
  await card.getByRole('button', { name: 'Move it there and tell everybody' }).click()
  await expect(
    page.getByText(`Moved ${title} to Tue 1 Dec 11:30. 3 people are told in 20 seconds.`),
  ).toBeVisible()
  await expect(card).toHaveCount(0)
  await allTold(page, entryId)
  // What was handed over lies in the box a moment later; the box says so when it is opened anew.
  await expect(async () => {
    await guest.goto(`${LETTERS}/box/${encodeURIComponent(GUEST.address)}`)
    await expect(guest.getByRole('link', { name: new RegExp(title) })).toHaveCount(2, { timeout: 1000 })
  }).toPass({ timeout: 20_000 })
  await openLetter(guest, GUEST.address, new RegExp(`Changed: ${title}`))
  await expect(guest.locator('pre').first()).toContainText('Your answer stands.')
})

test('Tashi proposes another time by keys, Ilse keeps hers and says why; a guest proposes one on a phone', async ({
  browser,
}) => {
  const title = 'Sastrugi talk'
  const page = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(page, {
    title,
    starts: '2026-12-02T10:00',
    names: ['Tashi Lhendup'],
    guests: [GUEST],
  })
  await allTold(page, entryId)
  const tashi = await signIn(browser, 'Tashi Lhendup')
  await tashi.goto(`${MARMOT}/now?meeting=${entryId}`)
  await tabTo(tashi, sheetOf(tashi, title).getByRole('button', { name: 'Propose another time' }))
  await tashi.keyboard.press('Enter')
  const propose = sheetOf(tashi, `Another time for ${title}`)
  const from = propose.getByLabel('From')
  await tabTo(tashi, from)
  await from.press('ControlOrMeta+a')
  await tashi.keyboard.type('15:30')
  await expect(propose.getByRole('status')).toContainText('Wednesday 2 December, 15:30 to 16:30')
  await expect(propose.getByRole('gridcell', { name: /^Ilse Brandacher/ })).toBeVisible()
  await expectAccessible(tashi, 'Proposing another time')
  await tashi.keyboard.press('Enter')
  await expect(sheetOf(tashi, title)).toContainText('You proposed Wednesday 2 December, 15:30 to 16:30')

  await page.goto(`${MARMOT}/now?meeting=${entryId}`)
  const sheet = sheetOf(page, title)
  await sheet.getByRole('button', { name: 'Keep the time…' }).click()
  await sheet.getByLabel('Words to Tashi Lhendup (optional)').fill('The hall is lent then')
  await sheet.getByRole('button', { name: 'Keep the time and tell Tashi Lhendup' }).click()
  await expect(page.getByText('The time stays. Tashi Lhendup is told.')).toBeVisible()
  await expect(sheetOf(tashi, title)).not.toContainText('You proposed')
  await openLetter(page, 'tashi.lhendup@corrie.example', new RegExp(`The time stays: ${title}`))
  await expect(page.locator('pre').first()).toContainText('The hall is lent then')

  const phone = await browser.newContext({
    viewport: { width: 390, height: 844 },
    timezoneId: 'Europe/Oslo',
    reducedMotion: 'reduce',
  })
  const guest = await phone.newPage()
  await openInvitation(guest, GUEST.address, new RegExp(`Invitation: ${title}`))
  await guest.getByRole('button', { name: 'Propose another time' }).click()
  await guest.getByLabel('Day').fill('3 Dec')
  await expectNoSideways(guest)
  await expectAccessible(guest, 'A guest who proposes another time')
  await guest.getByRole('button', { name: 'Propose it to Ilse Brandacher' }).click()
  await expect(guest.getByText('Until they answer, the meeting stays where it is.')).toBeVisible()
  await page.goto(`${MARMOT}/now?meeting=${entryId}`)
  await expect(sheetOf(page, title)).toContainText('Sunniva Lie proposes another time')
})

test('Catalina answers quietly, then passes the invitation on; Ilse sees what she is told', async ({
  browser,
}) => {
  const title = 'Firnline talk'
  const page = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(page, { title, starts: '2026-12-03T10:00', names: ['Catalina Reyes'] })
  await allTold(page, entryId)
  await page.goto(`${MARMOT}/now?meeting=${entryId}`)
  const catalina = await signIn(browser, 'Catalina Reyes')
  await catalina.goto(`${MARMOT}/now?meeting=${entryId}`)
  const mine = sheetOf(catalina, title)
  await mine.getByLabel(/^Tell Ilse Brandacher/).uncheck()
  await mine.getByRole('button', { name: 'No, I can’t' }).click()
  await expect(catalina.getByText('Ilse Brandacher is not told.')).toBeVisible()
  await expect(sheetOf(page, title)).toContainText('0 of 1 said yes, 1 has not answered')

  await mine.getByRole('button', { name: 'Pass it on' }).click()
  await mine.getByPlaceholder('A person, or an address').fill('Matteo')
  await catalina.getByRole('option', { name: /Matteo Ruprechter/ }).click()
  await expectAccessible(catalina, 'Passing an invitation on')
  await mine.getByRole('button', { name: 'Pass it on to Matteo Ruprechter' }).click()
  await expect(catalina.getByText('Passed on to Matteo Ruprechter. Ilse Brandacher is told.')).toBeVisible()
  const sheet = sheetOf(page, title)
  await expect(sheet).toContainText('Matteo Ruprechter in place of Catalina Reyes')
  await expect(sheet.getByRole('listitem').filter({ hasText: 'passed it on' })).toContainText(
    'Catalina Reyes',
  )
  await openLetter(catalina, 'matteo.ruprechter@corrie.example', new RegExp(`Invitation: ${title}`))
})

test('Ilse asks Tashi to one date of a series and lets Matteo off it; each sees their own dates', async ({
  browser,
}) => {
  const title = 'Penitentes walk'
  const page = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(page, {
    title,
    starts: '2026-12-04T10:00',
    names: ['Matteo Ruprechter'],
    guests: [GUEST],
    weeks: 3,
  })
  await allTold(page, entryId)
  await page.goto(`${MARMOT}/now?meeting=${entryId}&date=2026-12-11T10:00&change=1`)
  const change = sheetOf(page, `Change ${title}`)
  await expect(change.getByLabel('Only Fri 11 Dec')).toBeChecked()
  await change.getByPlaceholder('Add a person, team, address').fill('Tashi')
  await page.getByRole('option', { name: /Tashi Lhendup/ }).click()
  await change.getByRole('button', { name: 'Take Matteo Ruprechter out' }).click()
  const row = (name: string) => change.getByRole('listitem').filter({ hasText: name })
  await expect(row('Tashi Lhendup')).toContainText('this date only')
  await expect(row('Tashi Lhendup')).toContainText('is invited')
  await expect(row('Matteo Ruprechter')).toContainText('is told not to come')
  await expect(row('Sunniva Lie')).toContainText('is not written to: nothing changes')
  await expectAccessible(page, 'A change of who takes part in one date')
  await change.getByRole('button', { name: 'Change it and tell 2 people' }).click()
  await expect(sheetOf(page, title)).toContainText('Not on this date: Matteo Ruprechter')
  await allTold(page, entryId)
  await openLetter(page, 'tashi.lhendup@corrie.example', new RegExp(`Invitation: ${title}, Fri 11 Dec`))
  await openLetter(
    page,
    'matteo.ruprechter@corrie.example',
    new RegExp(`You are not expected, this date only: ${title}`),
  )
  // What each one’s own mail program makes of the letters: Tashi has one date, Matteo all but that.
  for (const [box, days] of [
    ['tashi.lhendup', ['Fri, 11 Dec 2026']],
    ['matteo.ruprechter', ['Fri, 4 Dec 2026', 'Fri, 18 Dec 2026']],
  ] as const) {
    await page.goto(`${LETTERS}/box/${box}@corrie.example`)
    await page.getByText('What the calendar shows').click()
    const shown = page.locator('details li').filter({ hasText: title })
    await expect(shown).toHaveCount(days.length)
    for (const [i, day] of days.entries()) await expect(shown.nth(i)).toContainText(day)
  }
  const tashi = await signIn(browser, 'Tashi Lhendup')
  await expect(invitation(tashi, title)).toContainText('Friday 11 December')
  await expect(invitation(tashi, title)).not.toContainText('Repeats')
})

test('Somebody outside invites Tashi, moves it and calls it off by mail; her lane follows, and her answer goes back', async ({
  browser,
}) => {
  const title = 'Sensor trial'
  const outside = await (await browser.newContext()).newPage()
  await outside.goto(`${LETTERS}/organize`)
  await outside.getByLabel('Title').fill(title)
  await outside.getByLabel('When, in UTC').fill('2026-12-07T07:00')
  await outside.getByLabel('Link to join by').fill('https://meet.lodestar.example/trial')
  await outside.getByRole('button', { name: 'Invite', exact: true }).click()
  await expect(outside.getByRole('status')).toContainText('It was sent.')

  const page = await signIn(browser, 'Tashi Lhendup')
  const asked = invitation(page, title)
  await expect(asked).toContainText('from noor.haddad@lodestar.example')
  await expect(asked).toContainText('Monday 7 December, 12:45 to 13:45')
  await asked.getByText('Who else').click()
  await expect(sheetOf(page, title).getByRole('button', { name: 'Join from 12:35' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await expect(sheetOf(page, title)).toHaveCount(0)
  await asked.getByRole('button', { name: title }).click()
  await expect(asked.getByRole('grid', { name: /^My day around it/ })).toBeVisible()
  await expectAccessible(page, 'An invitation from outside')
  await asked.getByRole('button', { name: 'Yes, I come' }).click()
  await expect(page.getByText(`You said yes: ${title}. noor.haddad@lodestar.example is told.`)).toBeVisible()
  await openLetter(
    outside,
    'noor.haddad@lodestar.example',
    new RegExp(`Tashi Lhendup says yes to "${title}"`),
  )

  const section = outside.locator('section').filter({ hasText: title })
  await outside.goto(`${LETTERS}/organize`)
  await section.getByLabel('Move it to, in UTC').fill('2026-12-08T07:00')
  await section.getByRole('button', { name: 'Move it' }).click()
  await expect(invitation(page, title)).toContainText('Tuesday 8 December, 12:45 to 13:45')
  await section.getByLabel('Why').fill('The sensor is broken')
  await section.getByRole('button', { name: 'Cancel it' }).click()
  await expect(page.getByRole('button', { name: /cancelled Sensor trial/ })).toContainText(
    '“The sensor is broken”',
  )
  await expect(page.getByRole('button', { name: title, exact: true })).toHaveCount(0)
})

test('A meeting that was declined is off one’s days, is found again, and is accepted after all', async ({
  browser,
}) => {
  const title = 'Randkluft walk'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(ilse, { title, starts: '2026-11-25T16:00', names: ['Wanjiru Kamande'] })
  await allTold(ilse, entryId)
  const page = await signIn(browser, 'Wanjiru Kamande')
  await page.goto(`${MARMOT}/now?meeting=${entryId}`)
  await sheetOf(page, title).getByRole('button', { name: 'No, I can’t' }).click()
  await expect(page.getByText('it is not in your time any more')).toBeVisible()
  await page.goto(`${MARMOT}/time?view=list`)
  await expect(page.getByRole('table')).toBeVisible()
  await page.getByRole('button', { name: 'Narrow' }).click()
  await page.getByLabel('Answer').selectOption('declined')
  await page.keyboard.press('Escape')
  await page.getByRole('table').getByRole('button', { name: title }).click()
  await sheetOf(page, title).getByRole('button', { name: 'Yes, I come' }).click()
  await expect(page.getByText(`You said yes: ${title}`)).toBeVisible()
  await expect(sheetOf(page, title)).toContainText('1 of 1 said yes')
})
