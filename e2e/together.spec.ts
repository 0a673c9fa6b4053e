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
import { CONFERENCE, MARMOT } from './ports.ts'

const GUEST = { address: 'levan.beridze@lodestar.example', name: 'Levan Beridze', required: true }

const point = (page: Page, number: number) => page.getByLabel(`Point ${number}`, { exact: true })
const notes = (page: Page) => page.getByRole('textbox', { name: 'Notes' })

test('Two write in one agenda at once, one of them goes offline and comes back: both texts are there, for a guest too', async ({
  browser,
}) => {
  const title = 'Rime inquiry'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const entryId = await sendAs(ilse, {
    title,
    starts: '2026-12-01T15:00',
    names: ['Tashi Lhendup'],
    guests: [GUEST],
  })
  await ilse.goto(`${MARMOT}/now?meeting=${entryId}`)
  await sheetOf(ilse, title).getByRole('link', { name: 'Open agenda and conversation' }).click()
  await expect(ilse.getByText('Everybody who takes part can write here.')).toBeVisible()
  const tashi = await signIn(browser, 'Tashi Lhendup')
  await tashi.goto(`${MARMOT}/meeting/${entryId}`)
  await expect(ilse.getByText('Also here:')).toContainText('Tashi Lhendup')

  // Points by keys: Enter goes on to the next.
  await tabTo(ilse, ilse.getByRole('button', { name: 'Add a point' }))
  await ilse.keyboard.press('Enter')
  // Typed at once, as people do.
  await ilse.keyboard.type('Ropes for all')
  await ilse.keyboard.press('Enter')
  await ilse.keyboard.type('Drill sites')
  await expect(point(ilse, 2)).toBeFocused()
  await expect(point(ilse, 1)).toHaveValue('Ropes for all')
  await point(ilse, 1).fill('Ropes')
  await ilse.getByLabel('Minutes for Drill sites').fill('70')
  await expect(ilse.getByText('70 min planned, 10 min longer than the meeting')).toBeVisible()
  await expect(tashi.getByLabel('Minutes for Drill sites')).toHaveValue('70')
  await tashi.getByLabel('Who leads Ropes').fill('Tashi Lhendup')
  await expect(ilse.getByLabel('Who leads Ropes')).toHaveValue('Tashi Lhendup')
  await expect(ilse.getByRole('listitem').filter({ has: point(ilse, 1) })).toContainText('Tashi Lhendup')

  await tashi.context().setOffline(true)
  await expect(tashi.getByText('Not connected.')).toBeVisible()
  await notes(tashi).click()
  await tashi.keyboard.type('Written on the ridge.')
  await point(tashi, 1).fill('Ropes, two')
  await notes(ilse).click()
  await ilse.keyboard.type('Written in the office. ')
  // Dragged by keys meanwhile.
  await ilse.getByRole('button', { name: 'Move Drill sites' }).focus()
  await ilse.keyboard.press('Space')
  await expect(ilse.getByText('Drill sites is taken up: point 2 of 2.')).toBeAttached()
  // A key that is pressed before the first is taken in is pressed once more, as one would.
  await expect(async () => {
    await ilse.keyboard.press('ArrowUp')
    await expect(ilse.getByText('Drill sites goes to place 1.')).toBeAttached({ timeout: 1000 })
  }).toPass()
  await ilse.keyboard.press('Space')
  await expect(point(ilse, 1)).toHaveValue('Drill sites')
  await tashi.context().setOffline(false)
  for (const page of [ilse, tashi]) {
    await expect(notes(page)).toContainText('Written on the ridge.')
    await expect(notes(page)).toContainText('Written in the office.')
    await expect(point(page, 1)).toHaveValue('Drill sites')
    await expect(point(page, 2)).toHaveValue('Ropes, two')
  }
  await expectAccessible(ilse, 'The agenda')

  // What somebody takes out has a way back.
  await ilse.getByRole('button', { name: 'Take out Drill sites' }).click()
  await expect(point(tashi, 1)).toHaveValue('Ropes, two')
  await ilse.getByRole('button', { name: 'Undo' }).click()
  await expect(point(tashi, 1)).toHaveValue('Drill sites')

  // A guest reads and writes from their page, on a phone, and says something.
  const guest = await (await browser.newContext({ viewport: { width: 390, height: 844 } })).newPage()
  await allTold(ilse, entryId)
  await openInvitation(guest, GUEST.address, new RegExp(`Invitation: ${title}`))
  await expect(guest.getByRole('region', { name: 'Agenda' })).toContainText('Ropes, two')
  await guest.getByRole('button', { name: 'Write in the agenda' }).click()
  await point(guest, 2).fill('Ropes, three')
  await expect(point(ilse, 2)).toHaveValue('Ropes, three')
  await guest.getByLabel('Message', { exact: true }).fill('@il')
  await guest.getByRole('option', { name: 'Ilse Brandacher' }).click()
  await guest.getByLabel('Message', { exact: true }).pressSequentially('I bring the third.')
  await guest.getByRole('button', { name: 'Send' }).click()
  await expectNoSideways(guest)
  await expectAccessible(guest, 'A guest’s page with agenda and conversation')
  await expect(ilse.getByText('@Ilse Brandacher')).toBeVisible()
  await ilse.getByLabel('Message', { exact: true }).fill('Thank you!')
  await ilse.keyboard.press('Enter')
  await expect(guest.getByText('Thank you!')).toBeVisible()
  await guest.getByLabel('Attach files to the message').setInputFiles({
    name: 'route.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('by the north side'),
  })
  await guest.getByRole('button', { name: 'Send', exact: true }).click()
  await expect(ilse.getByRole('region', { name: 'Files' })).toContainText('route.txt')
  // On a phone the page begins where it begins, and not with what was said last.
  const phone = await ilse.context().newPage()
  await phone.setViewportSize({ width: 390, height: 844 })
  await phone.goto(`${MARMOT}/meeting/${entryId}`)
  await expect(phone.getByText('Thank you!')).toBeVisible()
  await expect(point(phone, 2)).toHaveValue('Ropes, three')
  await expect(phone.getByRole('heading', { name: title })).toBeInViewport()
  await phone.close()
  await ilse.getByRole('link', { name: 'Now' }).click()
  await expect(ilse.getByText(`Levan Beridze mentions you in ${title}`)).toBeVisible()
  // The agenda is found by its words.
  await ilse.keyboard.press('Control+k')
  await sheetOf(ilse, 'Find').getByRole('combobox').fill('ropes three')
  await expect(ilse.getByRole('option', { name: new RegExp(title) })).toBeVisible()
})

test('Meeting right away: three are in within seconds, one called in by address, and the record says how long', async ({
  browser,
}) => {
  const title = 'Broken drill head'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const tashi = await signIn(browser, 'Tashi Lhendup', { viewport: { width: 390, height: 844 } })
  await ilse.keyboard.press('m')
  const sheet = sheetOf(ilse, 'Meet right away')
  await sheet.getByPlaceholder('Add a person, team, address').fill('Tashi')
  await sheet.getByRole('option', { name: /Tashi Lhendup/ }).click()
  await sheet.getByLabel('What it is about').fill(title)
  await expectAccessible(ilse, 'Meeting right away')
  await sheet.getByRole('button', { name: 'Call 1 person and begin' }).click()
  await expect(ilse.getByRole('region', { name: 'Who is here' })).toContainText(
    'Tashi Lhendup, being called…',
  )

  const ringing = tashi.getByRole('alertdialog', { name: 'Ilse Brandacher calls you' })
  await expect(ringing).toContainText(title)
  await expectAccessible(tashi, 'A call')
  await ringing.getByRole('button', { name: 'Go to the meeting' }).click()
  const comeIn = async (page: Page) => {
    const [room] = await Promise.all([
      page.waitForEvent('popup'),
      page.getByRole('button', { name: /^Join/ }).click(),
    ])
    await room.getByRole('button', { name: 'Come in' }).click()
    await expect(room.getByText('You are in')).toBeVisible()
    return room
  }
  const [hers, his] = [await comeIn(ilse), await comeIn(tashi)]
  const here = ilse.getByRole('region', { name: 'Who is here' })
  await expect(here).toContainText('Tashi Lhendup since')
  await expectNoSideways(tashi)

  // One is called in by address, and comes by the letter; one by telephone, which is played on the service's page.
  await here.getByPlaceholder('Call a person or an address').fill(GUEST.address)
  await here.getByRole('option').click()
  const guest = await (await browser.newContext()).newPage()
  await openLetter(guest, GUEST.address, new RegExp(title))
  const link = /Join: +(\S+)/.exec((await guest.locator('pre').first().textContent()) ?? '')?.[1] ?? ''
  await guest.goto(link)
  await guest.getByLabel('Your name').fill('Levan Beridze')
  await guest.getByRole('button', { name: 'Come in' }).click()
  await expect(here).toContainText('Levan Beridze since')
  await here.getByLabel('Telephone number to call').fill('+43 664 555 0142')
  await here.getByRole('button', { name: 'Call', exact: true }).click()
  const phone = await (await browser.newContext()).newPage()
  const answer = phone.getByRole('button', { name: 'Answer', exact: true }).first()
  await expect(async () => {
    await phone.goto(CONFERENCE)
    await expect(answer).toBeVisible({ timeout: 1000 })
  }).toPass({ timeout: 30_000 })
  await answer.click()
  await expect(here).toContainText('+43 664 555 0142 since')
  await expectAccessible(ilse, 'Who is here')

  await his.close()
  await expect(here).toContainText('Tashi Lhendup, left')
  await hers.getByRole('button', { name: 'Leave' }).click()
  await guest.getByRole('button', { name: 'Leave' }).click()
  await phone.goto(CONFERENCE)
  await phone.getByRole('button', { name: 'Hang up' }).first().click()
  const record = ilse.getByRole('region', { name: 'Record' })
  for (const name of ['Ilse Brandacher', 'Tashi Lhendup', 'Levan Beridze', '+43 664 555 0142'])
    await expect(record.getByRole('row', { name: new RegExp(name.replace('+', '\\+')) })).toContainText(
      /\d s$/,
    )
  await expectAccessible(ilse, 'The record')
  await record.getByRole('button', { name: 'Arrange the next one' }).click()
  await expect(
    ilse.getByLabel('Title of the meeting').or(ilse.getByLabel('Title', { exact: true })),
  ).toHaveValue(title)
})
