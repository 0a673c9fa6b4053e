import { type Browser, expect, type Page } from '@playwright/test'
import { test } from './journey.ts'
import {
  expectAccessible,
  expectNoSideways,
  openInvitation,
  openLetter,
  openMyTime,
  passMoment,
  sheetOf,
  signIn,
} from './person.ts'
import { LETTERS, MARMOT } from './ports.ts'

const ROSA = 'rosa@lodestar.example'
const KOFI = 'kofi@lodestar.example'

/** Has whoever is signed in offer a kind of meeting, with a name and a length alone; gives its address. */
const offer = async (page: Page, title: string, more: () => Promise<void> = async () => undefined) => {
  await page.goto(`${MARMOT}/settings?part=visitors`)
  await expect(page.getByRole('heading', { name: 'Visits' })).toBeVisible()
  const first = page.getByRole('button', { name: 'Make a page' })
  await ((await first.isVisible())
    ? first
    : page.getByRole('button', { name: 'A new kind of meeting…' }).first()
  ).click()
  await page.getByLabel('What is it for?').fill(title)
  await more()
  await page.getByRole('button', { name: 'Offer it' }).click()
  const said = page.getByText(new RegExp(`${title} is offered at`))
  await expect(said).toBeVisible()
  return `${MARMOT}/v/${/\/v\/(\S+)/.exec((await said.textContent()) ?? '')?.[1]}`
}

/** Somebody without an account, in a zone of their own. */
const stranger = async (browser: Browser, phone = false): Promise<Page> => {
  const context = await browser.newContext({
    timezoneId: 'America/Lima',
    reducedMotion: 'reduce',
    ...(phone ? { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true } : {}),
  })
  return context.newPage()
}

/** Picks a time: a day of the list, then one of its times. Gives what the button says. */
const pick = async (page: Page, day: number, time: number) => {
  await page.getByRole('list', { name: 'Days with free times' }).getByRole('button').nth(day).click()
  await page.getByRole('region', { name: 'Times' }).getByRole('button').nth(time).click()
}

/** When a mailbox’s own calendar has a meeting, by iTIP’s rules, and when Marmot has it on its host’s lane. */
const agree = async (page: Page, host: Page, title: string, box: string) => {
  await expect(async () => {
    await passMoment()
    const start = await host.evaluate(async (words) => {
      const range = 'from=2026-11-23T00:00:00Z&to=2027-02-20T00:00:00Z'
      const { occurrences } = await (await fetch(`/api/entries?${range}`)).json()
      return occurrences.find((one: { title: string }) => one.title.startsWith(words))?.start
    }, title)
    await page.goto(`${LETTERS}/box/${encodeURIComponent(box)}`)
    await page.getByText('What the calendar shows').click({ timeout: 1000 })
    const shown = page.locator('details li').filter({ hasText: title })
    await expect(shown).toHaveCount(1, { timeout: 1000 })
    const [day, clock] = [new Date(start).getUTCDate(), new Date(start).toISOString().slice(11, 16)]
    await expect(shown).toContainText(new RegExp(`, ${day} \\w+ \\d{4}, ${clock} UTC`), { timeout: 1000 })
  }).toPass({ timeout: 30_000 })
}

test('Tashi offers a visit in under a minute; a guest takes a time, brings a friend, moves it from the letter; Tashi drags it on; their calendars agree', async ({
  browser,
}) => {
  const title = 'Core viewing'
  const tashi = await signIn(browser, 'Tashi Lhendup')
  const began = Date.now()
  const address = await offer(tashi, title)
  expect(Date.now() - began).toBeLessThan(60_000)
  await expectAccessible(tashi, 'Pages for visitors')

  const rosa = await stranger(browser)
  await rosa.goto(address)
  await expect(rosa.getByRole('heading', { name: title })).toBeVisible()
  await expect(rosa.getByText('All times are in Lima, UTC−5 time.')).toBeVisible()
  await pick(rosa, 3, 0)
  await rosa.getByLabel('Your name').fill('Rosa Quispe')
  await rosa.getByLabel('Your e-mail address').fill(ROSA)
  await rosa.getByRole('button', { name: 'Bring somebody along' }).click()
  await rosa.getByLabel('Somebody who comes along, by e-mail address').fill(KOFI)
  await expectAccessible(rosa, 'Picking a time')
  await rosa.getByRole('button', { name: /^Take / }).click()
  await expect(rosa.getByRole('heading', { name: 'The time is yours' })).toBeVisible()
  for (const box of [ROSA, KOFI]) await agree(rosa, tashi, title, box)

  // From the letter: what is free then, without what she has herself in the way.
  await openInvitation(rosa, ROSA, new RegExp(`^Invitation: ${title}`))
  await expect(rosa.getByRole('button', { name: 'Cancel it…' })).toBeVisible()
  await expectAccessible(rosa, 'A visit')
  await rosa.getByRole('link', { name: 'Choose another time' }).click()
  await pick(rosa, 5, 0)
  await rosa.getByRole('button', { name: /^Move it to / }).click()
  await expect(rosa.getByRole('heading', { name: 'It is moved' })).toBeVisible()
  for (const box of [ROSA, KOFI]) await agree(rosa, tashi, title, box)
  await openLetter(rosa, ROSA, new RegExp(`^Changed: ${title}`))

  // And from the host’s side, as any meeting is moved.
  const host = await openMyTime(browser, 'Tashi Lhendup')
  const start = await host.evaluate(async (words) => {
    const { occurrences } = await (
      await fetch('/api/entries?from=2026-11-23T00:00:00Z&to=2027-02-20T00:00:00Z')
    ).json()
    return occurrences.find((one: { title: string }) => one.title.startsWith(words))?.start.slice(0, 10)
  }, title)
  await host.goto(`${MARMOT}/time?day=${start}`)
  const block = host.locator(`.stint[title*="${title}"]`).first()
  await expect(block).toBeVisible()
  const box = await block.boundingBox()
  if (!box) throw new Error('nothing to drag')
  await host.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await host.mouse.down()
  await host.mouse.move(box.x + box.width, box.y + box.height / 2, { steps: 4 })
  await host.mouse.move(box.x + 1.5 * box.width, box.y + box.height / 2, { steps: 4 })
  await host.mouse.up()
  await sheetOf(host, new RegExp(`Change ${title}`))
    .getByRole('button', { name: /^Change it and tell 2 people/ })
    .click()
  for (const each of [ROSA, KOFI]) await agree(rosa, tashi, title, each)
})

test('a time that is taken meanwhile says so and keeps what was typed; off is off for whoever has it open; on a phone', async ({
  browser,
}) => {
  const title = 'Hut talk'
  const host = await signIn(browser, 'Wanjiru Kamande')
  const address = await offer(host, title)
  const [one, two] = [await stranger(browser, true), await stranger(browser, true)]
  // The one does not hear that the other has it.
  await one.route('**/events', (route) => route.abort())
  for (const [page, name] of [
    [one, 'Rosa'],
    [two, 'Kofi'],
  ] as const) {
    await page.goto(address)
    await expect(page.getByRole('heading', { name: title })).toBeVisible()
    await expectNoSideways(page)
    await pick(page, 2, 0)
    await page.getByLabel('Your name').fill(name)
    await page.getByLabel('Your e-mail address').fill(`${name.toLowerCase()}@lodestar.example`)
  }
  await expectAccessible(one, 'Picking a time on a phone')
  await two.getByRole('button', { name: /^Take / }).click()
  await expect(two.getByRole('heading', { name: 'The time is yours' })).toBeVisible()
  await one.getByRole('button', { name: /^Take / }).click()
  await expect(one.getByText(/taken a moment ago/)).toBeVisible()
  await one.getByRole('region', { name: 'Times' }).getByRole('button').first().click()
  await expect(one.getByLabel('Your name')).toHaveValue('Rosa')

  await two.goto(address)
  await expect(two.getByRole('heading', { name: title })).toBeVisible()
  await host.getByRole('button', { name: new RegExp(`^${title}`) }).click()
  await host.getByRole('button', { name: 'Turn off' }).last().click()
  await host.getByRole('button', { name: 'Keep it, off' }).click()
  // Whoever has it open sees it at once.
  await expect(two.getByRole('heading', { name: 'Nothing is offered here just now' })).toBeVisible()
})
