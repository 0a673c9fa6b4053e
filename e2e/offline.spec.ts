import { expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import { allTold, expectAccessible, sendAs, sheetOf, signIn } from './person.ts'
import { MARMOT } from './ports.ts'

/** Waits until the page has what it needs to open without a network. */
const keptOn = async (page: Page): Promise<void> => {
  await page.evaluate(() => navigator.serviceWorker.ready)
  await expect
    .poll(() =>
      page.evaluate(
        () =>
          new Promise<string[]>((done) => {
            const opening = indexedDB.open('marmot-seen')
            opening.onsuccess = () => {
              const names = opening.result.transaction('kept').objectStore('kept').getAllKeys()
              names.onsuccess = () => done(names.result.map(String))
            }
          }),
      ),
    )
    .toEqual(expect.arrayContaining(['/api/session', '/api/now', 'weeks']))
}

test('without a network: opened, read, answered; and sent once it is back', async ({ browser }) => {
  const [stays, moves] = ['Hut roof', 'Hut stove']
  const ilse = await signIn(browser, 'Ilse Brandacher')
  const stayId = await sendAs(ilse, {
    title: stays,
    starts: '2026-11-24T20:00',
    names: ['Catalina Reyes'],
  })
  const moveId = await sendAs(ilse, {
    title: moves,
    starts: '2026-11-25T20:00',
    names: ['Catalina Reyes'],
  })
  for (const entryId of [stayId, moveId]) await allTold(ilse, entryId)

  const catalina = await signIn(browser, 'Catalina Reyes', { serviceWorkers: 'allow' })
  await expect(catalina.getByRole('button', { name: moves, exact: true })).toBeVisible()
  await keptOn(catalina)
  await catalina.context().setOffline(true)

  // Opened anew, and read: it says from when it is.
  await catalina.goto(`${MARMOT}/time?day=2026-11-24`)
  await expect(catalina.getByText(/^Not connected\. As last seen Mon 23 Nov/)).toBeVisible()
  const days = catalina.getByRole('grid', { name: 'My days' })
  await expect(days.getByTitle(new RegExp(`16:00 to 17:00, ${stays}`))).toBeVisible()
  await days.getByTitle(new RegExp(stays)).click()
  await expect(sheetOf(catalina, stays)).toContainText('Tuesday 24 November, 16:00 to 17:00')
  await catalina.keyboard.press('Escape')
  await expectAccessible(catalina, 'My time without a network')

  // Answered: kept, and said to be.
  await catalina.getByRole('link', { name: 'Now' }).click()
  for (const title of [stays, moves]) {
    const name = catalina.getByRole('button', { name: title, exact: true })
    if ((await name.getAttribute('aria-expanded')) !== 'true') await name.click()
    const card = catalina.getByRole('listitem').filter({ has: name })
    // Whether the organizer is told is as it was chosen last.
    await card.getByLabel('Tell Ilse Brandacher').check()
    await card.getByRole('button', { name: 'Yes, I come' }).click()
    await expect(
      catalina.getByRole('list', { name: 'Answers not sent yet' }).getByText(`to ${title} is kept`),
    ).toBeVisible()
  }
  await expectAccessible(catalina, 'Answers that wait')

  // Meanwhile one of them is moved.
  const { version } = await (await ilse.request.get(`${MARMOT}/api/meetings/${moveId}`)).json()
  const moved = await ilse.request.post(`${MARMOT}/api/meetings/${moveId}/change`, {
    data: { version, starts: '2026-11-26T20:00' },
    headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
  })
  expect(moved.ok()).toBe(true)

  await catalina.context().setOffline(false)
  await expect(catalina.getByText(`Your answer to ${stays} was sent.`)).toBeVisible()
  await expect(catalina.getByText(/^Not connected/)).toHaveCount(0)
  const late = catalina.getByRole('list', { name: 'Answers not sent yet' })
  await expect(late).toContainText(`The time of "${moves}" was changed after you answered`)
  await expect(late).toContainText('Thursday 26 November, 16:00 to 17:00')
  await expect(late.getByRole('listitem')).toHaveCount(1)
  const answers = async (entryId: string) => {
    const { participants } = await (await ilse.request.get(`${MARMOT}/api/meetings/${entryId}`)).json()
    return participants.find((one: { name: string }) => one.name === 'Catalina Reyes').answer
  }
  expect([await answers(stayId), await answers(moveId)]).toEqual(['accepted', 'needs-action'])
  const { notices } = await (await ilse.request.get(`${MARMOT}/api/now`)).json()
  expect(notices.filter((one: { entryId: string }) => one.entryId === stayId)).toHaveLength(1)

  // Asked again: looked at, and answered.
  await late.getByRole('button', { name: 'Look at it' }).click()
  await sheetOf(catalina, moves).getByRole('button', { name: 'Perhaps' }).click()
  await expect(catalina.getByText(`You said perhaps: ${moves}`)).toBeVisible()
  await expect(late).toHaveCount(0)
  await expect.poll(() => answers(moveId)).toBe('tentative')

  // Without a network nobody is signed out, and it says so; with one, nothing of hers stays on a device that she leaves.
  const leave = async () => {
    await catalina.getByRole('button', { name: /^Catalina Reyes: settings/ }).click()
    await catalina.getByRole('menuitem', { name: /Sign out/ }).click()
  }
  await catalina.context().setOffline(true)
  await leave()
  await expect(catalina.getByText(/^You are still signed in\./)).toBeVisible()
  await catalina.context().setOffline(false)
  await leave()
  await expect(catalina.getByRole('heading', { name: 'Marmot' })).toBeVisible()
  await catalina.context().setOffline(true)
  await catalina.goto(`${MARMOT}/time`)
  await expect(catalina.getByText(/cannot be reached/)).toBeVisible()
})
