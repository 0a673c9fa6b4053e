import { test as base } from '@playwright/test'
import { startDemo } from './setup.ts'

/**
 * A journey through the demo. They share one Marmot for as long as they pass: a runner whose journey failed is ended, and the
 * next, in which that is tried once more, has a fresh one.
 */
export const test = base.extend<{ closing: undefined }, { marmot: undefined }>({
  marmot: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads from it that nothing else is wanted
    async ({}, use) => {
      const stop = await startDemo()
      await use(undefined)
      await stop()
    },
    { scope: 'worker', auto: true, timeout: 180_000 },
  ],
  // Everybody goes home: pages that stay open listen on, and ask anew for what others do in the journeys after.
  closing: [
    async ({ browser }, use) => {
      await use(undefined)
      await Promise.all(browser.contexts().map((context) => context.close()))
    },
    { auto: true },
  ],
})
