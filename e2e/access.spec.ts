import { expect } from '@playwright/test'
import { test } from './journey.ts'
import {
  arrangeWith,
  expectAccessible,
  expectNoSideways,
  expectThumbs,
  lane,
  sendAs,
  signIn,
} from './person.ts'
import { MARMOT } from './ports.ts'

const SCREENS = [
  '/now',
  '/time?view=week',
  '/time?view=day',
  '/time?view=list',
  '/arrange',
  '/places',
  '/places?view=mine',
  '/people',
  '/settings?part=days',
  '/settings?part=sharing',
  '/settings?part=feeds',
  '/settings?part=files',
  '/settings?part=visitors',
]

const WIDTHS = [
  { name: 'at a desk', options: { viewport: { width: 1280, height: 800 } } },
  {
    name: 'on a phone',
    options: { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true },
  },
] as const

for (const { name, options } of WIDTHS)
  for (const colorScheme of ['light', 'dark'] as const)
    test(`every screen ${name}, ${colorScheme === 'light' ? 'by day' : 'at dusk'}, can be used by everybody`, async ({
      browser,
    }) => {
      const page = await signIn(browser, 'Ilse Brandacher', { ...options, colorScheme })
      for (const path of SCREENS) {
        await page.goto(`${MARMOT}${path}`)
        await expect(page.locator('main')).not.toContainText(/^\s*(?:Fetching|Loading)/)
        await page.waitForLoadState('networkidle')
        await expectAccessible(page, `${path} ${name}, ${colorScheme}`)
        if (name !== 'on a phone') continue
        await expectNoSideways(page)
        await expectThumbs(page, path)
      }
    })

test('a screen reader is told of the rows, of this meeting and of what stands open, by name and state', async ({
  browser,
}) => {
  const title = 'Voices'
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await sendAs(ilse, { title, starts: '2026-11-24T16:00', names: ['Tashi Lhendup'] })

  // Rows: who, where, when by their own clock, and how it stands.
  await arrangeWith(ilse, ['Tashi Lhendup', 'Severin Plattner'])
  const cards = ilse.getByRole('list', { name: 'Times that work, best first' })
  await cards.getByRole('button').first().click()
  await expect(lane(ilse, 'Tashi Lhendup')).toHaveAccessibleName(
    /^Tashi Lhendup, Kathmandu, \d\d:\d\d to \d\d:\d\d, free/,
  )
  await expect(lane(ilse, 'Severin Plattner')).toHaveAccessibleName(/unknown: shares no times/)
  await expect(ilse.getByRole('grid').first()).toHaveAttribute('aria-rowcount', /\d+/)

  // This meeting: what it is, what is missing, what can be done.
  const tray = ilse.getByRole('region', { name: 'This meeting' })
  await expect(tray.getByRole('textbox', { name: 'Title' })).toBeVisible()
  await expect(tray.getByText('Still missing: a title')).toBeVisible()
  await expect(tray.getByRole('button', { name: /^Send \d invitations…/ })).toBeDisabled()
  await expect(cards.getByRole('button').first()).toHaveAttribute('aria-current', 'true')
  for (const name of [/min$/, /^2|3 people/, /Nov to/, /hours$/, /place/])
    await expect(tray.getByRole('button', { name }).first()).toHaveAttribute('aria-haspopup', 'dialog')

  // My days: each by its date; a block by its time, title and state.
  await ilse.goto(`${MARMOT}/time?day=2026-11-24&view=week`)
  const days = ilse.getByRole('grid', { name: 'My days' })
  await expect(days.getByRole('gridcell', { name: /^Tuesday 24 November, / })).toBeVisible()
  await days.getByTitle(new RegExp(`16:00 to 17:00, ${title}`)).click()

  // A sheet: a dialog by its title, whose parts have names, and which gives the focus back.
  const sheet = ilse.getByRole('dialog', { name: title })
  await expect(sheet.getByRole('heading', { name: title })).toBeVisible()
  await expect(sheet.getByRole('region', { name: 'Answers' })).toMatchAriaSnapshot(`
    - region "Answers":
      - heading "0 of 1 said yes, 1 has not answered" [level=3]
      - list:
        - listitem: /Ilse Brandacher organizes/
        - listitem: /Tashi Lhendup/
  `)
  await expect(sheet.getByRole('button', { name: 'Close' })).toBeVisible()
  await ilse.keyboard.press('Escape')
  await expect(sheet).toHaveCount(0)
  await expect(ilse.locator('body')).not.toBeFocused()
})
