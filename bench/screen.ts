import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { emptyBrief } from '@marmot/contract/briefs'
import { DAY } from '@marmot/core/time'
import { type Browser, chromium, type Page } from '@playwright/test'
import config from '../e2e/playwright.config.ts'
import { framesOf, tellFrames } from './measuring.ts'

const LANES = 40
const WEEKS = 2
const FRAMES = 400
const ROUNDS = 3

/** Scrolls what `selector` finds from end to end and back, a wheel's turn a frame: milliseconds between frames. */
export const scrolling = (selector: string): string => `new Promise((done) => {
  const box = document.querySelector(${JSON.stringify(selector)})
  const frames = []
  let last = performance.now()
  let way = 1
  const step = (now) => {
    frames.push(now - last)
    last = now
    if (!box || frames.length > ${FRAMES}) return done(frames.slice(2))
    box.scrollTop += 40 * way
    if (box.scrollTop + box.clientHeight >= box.scrollHeight - 1) way = -1
    else if (box.scrollTop === 0) way = 1
    requestAnimationFrame(step)
  }
  requestAnimationFrame(step)
})`

/** Starts noting the milliseconds between frames; `window.stopFrames()` ends it and gives them. */
export const NOTING = `(() => {
  const frames = []
  let last = performance.now()
  let on = true
  const step = (now) => {
    frames.push(now - last)
    last = now
    if (on) requestAnimationFrame(step)
  }
  requestAnimationFrame(step)
  window.stopFrames = () => { on = false; return frames.slice(2) }
})()`

/** In a page: waits for the next frame. */
export const WAIT_A_FRAME = 'new Promise((done) => requestAnimationFrame(done))'

/** The frames of all three rounds: each has to hold. */
export const inAllRounds = async (round: () => Promise<unknown>): Promise<number[]> => {
  const frames: number[] = []
  for (let i = 0; i < ROUNDS; i++) frames.push(...framesOf(await round()))
  return frames
}

/** A browser with Ilse signed in. */
export const openScreen = async (url: string): Promise<{ browser: Browser; page: Page }> => {
  const browser = await chromium.launch(config.use?.launchOptions)
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  await page.goto(url)
  await page.getByRole('button', { name: /Ilse Brandacher/ }).click()
  await page.getByText('Good to see you').waitFor()
  return { browser, page }
}

const settled = async (page: Page) => {
  await page.waitForLoadState('networkidle')
  await page.waitForTimeout(1500)
}

/** Frames while a year of lanes scrolls. */
export const measureYearScroll = async (page: Page, url: string): Promise<boolean> => {
  await page.goto(`${url}/time?view=year`)
  await page.locator('.row[data-marked] .stint').first().waitFor()
  await settled(page)
  const frames = await inAllRounds(() => page.evaluate(scrolling('[data-testid=days]')))
  const size = `${await page.locator('.stint').count()} blocks on ${await page.locator('[data-row]').count()} lanes`
  return tellFrames('a year, scrolling', frames, size)
}

/** Frames while all places scroll. */
export const measurePlacesScroll = async (page: Page, url: string): Promise<boolean> => {
  await page.goto(`${url}/places`)
  await page.getByText('All', { exact: true }).click()
  await page.locator('[data-row]').first().waitFor()
  await settled(page)
  const count = await page.locator('[role=grid]').getAttribute('aria-rowcount')
  const frames = await inAllRounds(() => page.evaluate(scrolling('[data-testid=lanes]')))
  return tellFrames('places, scrolling', frames, `${count} lanes and rulers`)
}

/** Frames while the table of all that is reserved of what one looks after is sorted, looked through and scrolled. */
export const measureTable = async (page: Page, url: string): Promise<boolean> => {
  await page.goto(`${url}/places?view=cared`)
  const rows = page.getByRole('row')
  await rows.nth(1).waitFor()
  await settled(page)
  const frames = await inAllRounds(async () => {
    await page.evaluate(NOTING)
    for (const name of ['Place', 'When']) {
      await page.getByRole('columnheader', { name }).getByRole('button').click()
      await settled(page)
    }
    await page.getByLabel('Find a reservation').fill('Nunatak 1')
    await settled(page)
    await page.getByLabel('Find a reservation').fill('')
    await settled(page)
    await page.mouse.move(640, 500)
    for (let i = 0; i < 60; i++) await page.mouse.wheel(0, i < 30 ? 60 : -60)
    return page.evaluate('window.stopFrames()')
  })
  const size = await page.getByRole('status').filter({ hasText: 'reservations' }).first().textContent()
  return tellFrames('the table', frames, `${size}, sorted, filtered, scrolled`)
}

/**
 * Frames while the chosen time is dragged to and fro over the lanes of a large meeting. The trace of it is kept in
 * `folder` for a closer look.
 */
export const measureDragging = async (
  page: Page,
  url: string,
  ids: readonly string[],
  folder: string,
): Promise<boolean> => {
  const today = Math.floor(Date.UTC(2026, 10, 23) / DAY)
  const brief = {
    ...emptyBrief(today, ids[0] ?? ''),
    people: ids.slice(0, LANES).map((id) => ({ id, required: true, group: null })),
    start: Date.UTC(2026, 10, 24, 10),
    minutes: 60,
  }
  const text = Buffer.from(JSON.stringify(brief)).toString('base64url')
  await page.goto(`${url}/arrange?brief=${text}`)
  await page.locator('.frame').first().waitFor()
  for (let days = 1; days < WEEKS * 7; days++) await page.keyboard.press('+')
  await settled(page)
  const lanes = await page.locator('[data-row]').count()
  const box = await page.locator('.frame').first().boundingBox()
  if (!box) throw new Error('There is no chosen time to drag')
  const browser = page.context().browser()
  mkdirSync(folder, { recursive: true })
  await browser?.startTracing(page, { path: join(folder, 'dragging.trace.json') })
  const y = box.y + box.height / 2
  const x = box.x + box.width / 2
  const frames = await inAllRounds(async () => {
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.evaluate(NOTING)
    for (let round = 0; round < 3; round++) {
      await page.mouse.move(x + 900, y, { steps: 60 })
      await page.mouse.move(x, y, { steps: 60 })
    }
    await page.mouse.up()
    return page.evaluate('window.stopFrames()')
  })
  await browser?.stopTracing()
  const blocks = await page.locator('.stint').count()
  return tellFrames('dragging a time', frames, `${lanes} lanes, ${WEEKS} weeks, ${blocks} blocks`)
}

/** From a press to the frame that shows what was asked for, in the page's own clock. */
export const until = (page: Page, act: string, there: string): Promise<number> =>
  page.evaluate(`new Promise((done, fail) => {
    const began = performance.now()
    ;${act}
    const look = () => {
      if (${there}) requestAnimationFrame(() => done(performance.now() - began))
      else if (performance.now() - began > 20000) fail(new Error('not there after 20 s'))
      else setTimeout(look, 1)
    }
    look()
  })`)
