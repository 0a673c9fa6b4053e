import AxeBuilder from '@axe-core/playwright'
import { type Browser, expect, type Locator, type Page } from '@playwright/test'
import pg from 'pg'
import { LETTERS, MARMOT } from './ports.ts'

/** Signs a person in on a page of their own, as from another machine. */
export const signIn = async (
  browser: Browser,
  name: string,
  options: Parameters<Browser['newContext']>[0] = {},
): Promise<Page> => {
  // Without motion, so that nothing is judged while it fades in.
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    reducedMotion: 'reduce',
    // What opens Marmot without a network has a journey of its own; the others are spared its fetching.
    serviceWorkers: 'block',
    ...options,
  })
  const page = await context.newPage()
  // What the page's own policy refuses is tried by mistake.
  page.on('console', (said) => {
    if (/content security policy|-src' was not explicitly set/i.test(said.text()))
      throw new Error(`The page tried what its policy refuses: ${said.text()}`)
  })
  await page.goto(MARMOT)
  await page.getByRole('button', { name: new RegExp(name) }).click()
  await expect(page.getByText('Good to see you')).toBeVisible()
  return page
}

/** Opens what is needed less often than sending. */
export const more = (page: Page): Promise<void> =>
  page.getByRole('button', { name: 'More for this meeting' }).click()

/** Fails when axe finds anything serious or critical on the screen. */
export const expectAccessible = async (page: Page, screen: string): Promise<void> => {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze()
  const serious = violations
    .filter((violation) => violation.impact === 'serious' || violation.impact === 'critical')
    .map(
      (violation) =>
        `${screen}: ${violation.id}: ${violation.nodes.map((node) => `${node.target} ${node.failureSummary}`).join(' | ')}`,
    )
  expect(serious).toEqual([])
}

/** Nothing on the page runs out of its right side. */
export const expectNoSideways = async (page: Page): Promise<void> => {
  expect(
    await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
  ).toBeLessThanOrEqual(0)
}

/**
 * On a phone: what is pressed is as tall as a thumb needs (WCAG 2.2, 2.5.5), and not too narrow. Links within a sentence are as tall
 * as its words; what lies on lanes is as long as it lasts.
 */
export const expectThumbs = async (page: Page, where: string): Promise<void> => {
  const small = await page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('button, a[href], input, select, textarea, summary')].flatMap(
      (one) => {
        const box = (one.closest('label') ?? one).getBoundingClientRect()
        const { display, visibility } = getComputedStyle(one)
        const seen = box.width > 1 && box.height > 1 && visibility !== 'hidden' && !one.closest('.sr-only')
        const pressed = display !== 'inline' && !one.matches('[data-part], :disabled')
        return seen && pressed && (box.height < 44 || box.width < 24)
          ? [`${one.ariaLabel ?? one.textContent}: ${Math.round(box.width)} × ${Math.round(box.height)}`]
          : []
      },
    ),
  )
  expect(small, where).toEqual([])
}

/** The state of a lane as a screen reader hears it. */
export const lane = (page: Page, name: string) => page.getByRole('gridcell', { name: new RegExp(`^${name}`) })

/** Lets the moment pass in which what was sent or changed can be taken back, as if one had waited for it. */
export const passMoment = async (): Promise<void> => {
  const client = new pg.Client({ connectionString: process.env.MARMOT_JOURNEYS_DATABASE })
  await client.connect()
  await client.query(
    "update graphile_worker._private_jobs set run_at = now() where key like 'owed:%' and locked_at is null",
  )
  await client.end()
}

/** Opens the newest letter about something in a mailbox, once it is there. */
export const openLetter = async (page: Page, address: string, subject: RegExp): Promise<void> => {
  await expect(async () => {
    await passMoment()
    await page.goto(`${LETTERS}/box/${encodeURIComponent(address)}`)
    await page.getByRole('link', { name: subject }).first().click({ timeout: 1000 })
  }).toPass({ timeout: 20_000 })
}

const LINK = /http:\/\/localhost:\d+\/i\/\S+/

/** Opens a guest's page by the link in their letter. */
export const openInvitation = async (page: Page, address: string, subject: RegExp): Promise<void> => {
  await openLetter(page, address, subject)
  await page.goto(LINK.exec((await page.locator('pre').first().textContent()) ?? '')?.[0] ?? '')
}

/** Goes to a control as somebody without a mouse does: by Tab, from wherever the focus is. */
export const tabTo = async (page: Page, target: Locator): Promise<void> => {
  await expect(target).toBeVisible()
  const there = () => target.evaluate((element) => element === document.activeElement)
  for (let i = 0; i < 120; i++) {
    if (await there()) return
    await page.keyboard.press('Tab')
  }
  throw new Error('Tab does not lead there')
}

/** Signs somebody in and opens their own days, once they are there; with nobody's time beside them that another journey laid there. */
export const openMyTime = async (browser: Browser, name: string): Promise<Page> => {
  const page = await signIn(browser, name)
  const { sets } = await (await page.request.get(`${MARMOT}/api/layers`)).json()
  for (const { id } of sets)
    await page.request.delete(`${MARMOT}/api/layers/${id}`, { headers: { origin: MARMOT } })
  await page.getByRole('link', { name: 'My time' }).click()
  await expect(page.getByRole('grid', { name: 'My days' })).toHaveAttribute('aria-label', 'My days')
  await expect(page.getByTestId('days').locator('[aria-busy=false]')).toBeVisible()
  return page
}

/** An open sheet, by its title. */
export const sheetOf = (page: Page, name: string | RegExp) => page.getByRole('dialog', { name })

/** Has these people in hand, on the screen that arranges. */
export const arrangeWith = async (page: Page, names: readonly string[]) => {
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

/** A meeting as somebody sends it. */
interface Sent {
  readonly title: string
  readonly starts: string
  readonly names: readonly string[]
  readonly guests?: readonly { address: string; name: string; required: boolean }[]
  readonly place?: string
  readonly weeks?: number
}

/** Sends a meeting of an hour in whoever’s name is signed in, as they would have before; gives its id. */
export const sendAs = (page: Page, sent: Sent): Promise<string> =>
  page.evaluate(async ({ title, starts, names, guests = [], place, weeks }) => {
    const ask = async (path: string, body?: unknown) => {
      const answer = await fetch(path, {
        method: body ? 'POST' : 'GET',
        headers: { 'content-type': 'application/json', 'idempotency-key': crypto.randomUUID() },
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
      if (!answer.ok) throw new Error(await answer.text())
      return answer.json()
    }
    const people = []
    for (const name of names) {
      const found = await ask(`/api/people?q=${encodeURIComponent(name)}`)
      people.push({ id: found.people[0].id, required: true })
    }
    const { resources } = await ask('/api/resources')
    const places = resources.filter((one: { name: string }) => one.name === place)
    const { entryId } = await ask('/api/meetings', {
      title,
      starts,
      minutes: 60,
      zone: 'Europe/Vienna',
      people,
      guests,
      places: places.map((one: { id: string }) => one.id),
      ...(weeks ? { series: { rule: `FREQ=WEEKLY;COUNT=${weeks}`, changes: [] } } : {}),
    })
    return entryId
  }, sent)

/** Lets the moment pass, and waits until the letters that are on their way have gone out. */
export const allTold = async (page: Page, entryId: string) =>
  expect
    .poll(
      async () => {
        await passMoment()
        return page.evaluate(async (id) => {
          const meeting = await (await fetch(`/api/meetings/${id}`)).json()
          return (
            meeting.untold === null &&
            meeting.participants.every((one: { mail: string }) => one.mail !== 'waiting')
          )
        }, entryId)
      },
      { timeout: 30_000 },
    )
    .toBe(true)
