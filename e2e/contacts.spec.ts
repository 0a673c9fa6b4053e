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
import { MARMOT, PARTNER } from './ports.ts'

const card = (name: string, address: string) =>
  ['BEGIN:VCARD', 'VERSION:4.0', `FN:${name}`, `EMAIL:${address}`, 'ORG:Faro Ropes', 'END:VCARD', ''].join(
    '\r\n',
  )

test('whoever is invited stands among the contacts with all that was arranged; a file is taken in; a to-do is about somebody', async ({
  browser,
}) => {
  const page = await signIn(browser, 'Catalina Reyes')
  const guest = 'petra@rock.example'
  const entryId = await sendAs(page, {
    title: 'Rock fall map',
    starts: '2026-12-09T15:10',
    names: [],
    guests: [{ address: guest, name: 'Petra Vogel', required: true }],
  })
  await allTold(page, entryId)
  await page.getByRole('link', { name: 'People' }).click()
  await page.getByRole('link', { name: 'Contacts' }).click()
  const table = page.getByRole('table', { name: 'Contacts' })
  await expect(table.getByRole('row', { name: new RegExp(guest) })).toContainText('from an invitation')
  await expectAccessible(page, 'Contacts')

  // A file is looked at before it is taken; the same file twice changes nothing.
  const bring = () =>
    page.getByLabel('A file of contacts').setInputFiles({
      name: 'ropes.vcf',
      mimeType: 'text/vcard',
      buffer: Buffer.from(card('Ines Faro', 'ines@faro.example')),
    })
  await bring()
  await expect(page.getByText('1 new contact, 0 changed, 0 as they are here already.')).toBeVisible()
  await page.getByRole('button', { name: 'Take in 1 contact' }).click()
  await expect(table.getByRole('row', { name: /ines@/ })).toContainText('from a file')
  await bring()
  await expect(page.getByText('0 new contacts, 0 changed, 1 as they are here already.')).toBeVisible()
  await page.getByRole('button', { name: 'Close', exact: true }).click()

  // Found by a word, in groups.
  await page.getByLabel('Find in the contacts').fill('ines faro')
  await expect(table.getByRole('row')).toHaveCount(2)
  await page.getByLabel('Find in the contacts').fill('')
  await page.getByLabel('In groups').selectOption({ label: 'by organisation' })
  await expect(table.getByRole('rowheader', { name: /^Faro Ropes/ })).toBeVisible()

  // A to-do is about her, and stands on her page beside the meeting.
  const todo = await page.request.post(`${MARMOT}/api/todos`, {
    headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
    data: { title: 'Send Petra the map', zone: 'America/Santiago', due: '2026-12-11T00:00' },
  })
  const { id } = await todo.json()
  await page.goto(`${MARMOT}/time?todo=${id}`)
  const sheet = sheetOf(page, 'Send Petra the map')
  await sheet.getByRole('button', { name: 'About somebody…' }).click()
  await page.keyboard.type('petra')
  await expect(sheet.getByRole('listitem').filter({ hasText: 'Petra Vogel' })).toBeVisible()
  await page.keyboard.press('Enter')
  await sheet.getByRole('button', { name: 'Petra Vogel', exact: true }).click()
  const contact = sheetOf(page, 'Petra Vogel')
  await expect(contact.getByRole('button', { name: /Rock fall map/ })).toBeVisible()
  await expect(contact.getByRole('button', { name: /Send Petra the map/ })).toContainText('to do')
  await expectAccessible(page, 'A contact')

  // So is an entry of one's own days.
  await page.request.post(`${MARMOT}/api/entries`, {
    headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
    data: {
      title: 'Draw the slope',
      starts: '2026-12-13T11:00',
      minutes: 60,
      zone: 'America/Santiago',
    },
  })
  await page.goto(`${MARMOT}/time?day=2026-12-13`)
  await page.getByTitle(/Draw the slope/).click()
  const entry = sheetOf(page, 'Draw the slope')
  await entry.getByRole('button', { name: 'About somebody…' }).click()
  await page.keyboard.type('petra')
  await entry.getByRole('listitem').getByRole('button', { name: 'Petra Vogel' }).click()
  await entry.getByRole('button', { name: 'Petra Vogel', exact: true }).click()
  await expect(contact.getByRole('button', { name: /Draw the slope/ })).toBeVisible()

  // Changed, and taken back.
  await contact.getByRole('button', { name: 'Change…' }).click()
  await contact.getByLabel('Organisation').fill('Rock and Ice')
  await contact.getByRole('button', { name: 'Save' }).click()
  await expect(contact).toContainText('Rock and Ice')
  await contact.getByRole('button', { name: 'Change…' }).click()
  await contact.getByLabel('Where their free times can be read').fill(`${PARTNER}/free-busy.ics`)
  await contact.getByRole('button', { name: 'Save' }).click()
  await expect(contact).toContainText('Their free times count when you arrange something with them, as read')
  const time = await page.request.post(`${MARMOT}/api/availability`, {
    headers: { origin: MARMOT },
    data: {
      people: [(await (await page.request.get(`${MARMOT}/api/session`)).json()).person.id],
      guests: [guest],
      from: '2026-11-23T00:00:00Z',
      to: '2026-12-07T00:00:00Z',
    },
  })
  expect((await time.json()).guests[0].spans.length).toBeGreaterThan(5)
  await contact.getByRole('button', { name: 'Close' }).click()
  await page.locator('#main').focus()
  await page.keyboard.press('Control+z')
  await expect(page.getByText(/^Undone: Petra Vogel/)).toBeVisible()

  // On a phone.
  const phone = await signIn(browser, 'Catalina Reyes', {
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
  })
  await phone.goto(`${MARMOT}/people?view=contacts`)
  await phone.getByRole('button', { name: 'Petra Vogel' }).tap()
  await expect(sheetOf(phone, 'Petra Vogel')).toContainText('Send Petra the map')
  await expectThumbs(phone, 'A contact on a phone')
  await expectNoSideways(phone)
  await expectAccessible(phone, 'A contact on a phone')
})
