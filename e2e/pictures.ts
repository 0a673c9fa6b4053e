import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { type Browser, chromium, type Page } from '@playwright/test'
import { more, openLetter, signIn } from './person.ts'
import config from './playwright.config.ts'
import { LETTERS, MARMOT } from './ports.ts'
import { startDemo } from './setup.ts'

const FOLDER = fileURLToPath(new URL('../docs/screenshots', import.meta.url))
const PHONE = { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true }

const post = async (
  page: Page,
  path: string,
  data: unknown,
): Promise<{ entryId: string; link: string; pollId: string }> =>
  (
    await page.request.post(`${MARMOT}${path}`, {
      data,
      headers: { 'idempotency-key': crypto.randomUUID(), origin: MARMOT },
    })
  ).json()

/** Asks several which times suit, as if most had answered by now. */
const asking = async (ilse: Page, browser: Browser): Promise<void> => {
  const people = []
  for (const name of ['Matteo Ruprechter', 'Wanjiru Kamande', 'Tashi Lhendup', 'Aroha Pene']) {
    const found = await ilse.request.get(`${MARMOT}/api/people?q=${encodeURIComponent(name)}`)
    people.push({ id: (await found.json()).people[0].id, required: name !== 'Aroha Pene' })
  }
  const guests = ['Rosa Quispe', 'Kofi Mensah', 'Priya Nair'].map((name) => ({
    name,
    address: `${name.split(' ')[0]?.toLowerCase()}@lodestar.example`,
    required: name !== 'Priya Nair',
  }))
  const { pollId } = await post(ilse, '/api/polls', {
    title: 'Where the cores are kept',
    note: '<p>Two freezers are full, and a third hums.</p>',
    minutes: 60,
    zone: 'Europe/Vienna',
    people,
    guests,
    closes: '2026-11-30T17:00:00Z',
    times: ['01T09:00', '01T13:00', '02T08:00', '03T10:00', '04T08:30', '04T12:00'].map((start) => ({
      start: `2026-12-${start}:00Z`,
      places: [],
    })),
    needed: 5,
    results: 'all',
    names: true,
    oneMark: false,
    proposals: true,
    notices: 'each',
    holds: true,
    door: null,
  })
  const marks = { rosa: 'yynyni', kofi: 'niyyin' } as const
  const said = { y: 'yes', n: 'no', i: 'if-need-be' } as const
  for (const [box, letters] of Object.entries(marks)) {
    const page = await (await browser.newContext()).newPage()
    await openLetter(page, `${box}@lodestar.example`, /^Which times suit you/)
    const token = /\/q\/([\w-]+)/.exec((await page.locator('pre').first().textContent()) ?? '')?.[1]
    const link = `${MARMOT}/api/poll-links/${token}`
    const { times } = await (await page.request.get(link)).json()
    const marked = times.map(({ id: timeId }: { id: string }, i: number) => ({
      timeId,
      mark: said[letters[i] as keyof typeof said],
    }))
    await page.request.put(`${link}/marks`, {
      data: { marks: marked, comment: box === 'rosa' ? 'Thursday I am in Innsbruck anyway.' : '' },
    })
  }
  await ilse.goto(`${MARMOT}/poll/${pollId}`)
  await ilse.getByText('2 of 7 have answered.').waitFor()
  await ilse.getByRole('button', { name: 'Choose a time…' }).click()
  await ilse.getByRole('heading', { name: 'Who is invited' }).waitFor()
}

/** Offers two kinds of meeting to people from outside, one of which was taken. */
const offering = async (tashi: Page): Promise<void> => {
  const put = (path: string, data: unknown) =>
    tashi.request.put(`${MARMOT}${path}`, { data, headers: { origin: MARMOT } })
  const [pageId, lab, call] = [crypto.randomUUID(), crypto.randomUUID(), crypto.randomUUID()]
  await put(`/api/visit-pages/${pageId}`, { slug: 'tashi', name: 'Tashi Lhendup', accent: 2 })
  await put(`/api/visit-pages/${pageId}/kinds/${lab}`, {
    slug: 'lab-visit',
    title: 'Lab visit',
    about: 'See the cores of the Ganja station, and what they tell.',
    lengths: [30, 60],
    place: 'High stations office, second floor',
    before: 15,
    after: 15,
    step: 60,
    questions: [
      { id: 'see', kind: 'text', words: 'What would you like to see?', required: true, options: [] },
      {
        id: 'in',
        kind: 'choice',
        words: 'In which language?',
        required: false,
        options: ['English', 'Nepali'],
      },
    ],
  })
  await put(`/api/visit-pages/${pageId}/kinds/${call}`, {
    slug: 'call',
    title: 'A short call',
    lengths: [15],
    where: 'conference',
  })
  const offered = await (await tashi.request.get(`${MARMOT}/api/v/tashi/lab-visit?days=28`)).json()
  await post(tashi, '/api/v/tashi/lab-visit/visits', {
    start: new Date(offered.starts[9]).toISOString(),
    minutes: 30,
    name: 'Mira Solberg',
    address: 'mira.solberg@lodestar.example',
    zone: 'Europe/Oslo',
    guests: [{ address: 'kofi@lodestar.example' }],
    answers: { see: 'The saw, and a core from 42 m' },
    own: 'made-for-a-picture-made-for-a-picture-mades',
  })
  await tashi.goto(`${MARMOT}/settings?part=visitors`)
  await tashi.getByRole('button', { name: /^Lab visit/ }).click()
  await tashi.getByRole('cell', { name: /Mira Solberg/ }).waitFor()
}

/** Two meet right away: a third is called, and they write the agenda and say something. */
const together = async (ilse: Page, tashi: Page): Promise<void> => {
  const ids = []
  for (const name of ['Tashi Lhendup', 'Aroha Pene']) {
    const found = await ilse.request.get(`${MARMOT}/api/people?q=${encodeURIComponent(name)}`)
    ids.push((await found.json()).people[0].id)
  }
  const { entryId } = await post(ilse, '/api/meetings/right-away', {
    title: 'Broken drill head',
    people: ids,
    guests: [],
  })
  const at = `/api/meetings/${entryId}`
  await ilse.goto(`${MARMOT}/meeting/${entryId}`)
  for (const [title, who, minutes] of [
    ['What broke, and when', 'Tashi Lhendup', '5'],
    ['Spare heads: Dunedin or Innsbruck', 'Aroha Pene', '10'],
    ['Who flies with it', '', '10'],
  ] as const) {
    await ilse.getByRole('button', { name: 'Add a point' }).click()
    await ilse.keyboard.type(title)
    await ilse.getByLabel(`Who leads ${title}`).fill(who)
    await ilse.getByLabel(`Minutes for ${title}`).fill(minutes)
  }
  await tashi.goto(`${MARMOT}/meeting/${entryId}`)
  const notes = tashi.getByRole('textbox', { name: 'Notes' })
  await notes.click()
  await tashi.keyboard.type('Seen at 42 m:')
  await tashi.keyboard.press('Enter')
  await tashi.getByRole('button', { name: 'List', exact: true }).click()
  await tashi.keyboard.type('two teeth gone')
  await tashi.keyboard.press('Enter')
  await tashi.keyboard.type('the thread is good')
  await post(ilse, `${at}/conversation`, { text: 'Aroha has a spare head on the shelf.' })
  await post(tashi, `${at}/conversation`, {
    text: 'Good. @Ilse Brandacher, can the van take it to the airport?',
  })
  for (const page of [ilse, tashi]) {
    const { link } = await post(page, `${at}/join`, {})
    const room = await page.context().newPage()
    await room.goto(link)
    await room.getByRole('button', { name: 'Come in' }).click()
    await room.getByText('You are in').waitFor()
  }
  await ilse.getByText('Tashi Lhendup since').waitFor()
  await ilse.getByText('two teeth gone').waitFor()
}

/** A day outside that two want to spend dry, at dusk. */
const outing = async (page: Page): Promise<void> => {
  await page.emulateMedia({ colorScheme: 'dark' })
  await go(page, 'Arrange')
  await addPerson(page, 'Nahuel')
  await page.getByLabel('Title', { exact: true }).fill('Snow pit with visitors')
  await page.getByRole('button', { name: /^Places needed/ }).click()
  await page.getByRole('checkbox', { name: 'Out of doors' }).check()
  await page.keyboard.press('Escape')
  const cards = page.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await cards.filter({ hasText: 'dry' }).first().getByRole('button').first().click()
}

const stop = await startDemo()
const browser = await chromium.launch(config.use?.launchOptions)

const picture = async (page: Page, name: string): Promise<void> => {
  // Messages that come and go do not belong in a picture of the screen.
  await page.addStyleTag({ content: '[data-sonner-toaster] { display: none }' })
  await page.mouse.move(0, 0)
  await page.waitForLoadState('networkidle').catch(() => undefined)
  await page.screenshot({ path: join(FOLDER, `${name}.png`) })
}

const go = (page: Page, name: string) => page.getByRole('link', { name, exact: true }).click()

const addPerson = async (page: Page, name: string): Promise<void> => {
  await page.getByPlaceholder('Add a person, team, address').fill(name)
  await page
    .getByRole('option', { name: new RegExp(name) })
    .first()
    .click()
}

const brief = async (page: Page, people: readonly string[]): Promise<void> => {
  await go(page, 'Arrange')
  for (const name of people) await addPerson(page, name)
  await page.getByLabel('Title').fill('Firn core review')
  await page.getByLabel('Title').blur()
  const help = page.getByRole('group', { name: 'What would help' }).getByRole('button').first()
  const cards = page.getByRole('list', { name: 'Times that work, best first' }).getByRole('listitem')
  await help.or(cards.first()).first().waitFor()
  if (await help.isVisible()) await help.click()
  await cards.nth(1).getByRole('button').first().click()
}

try {
  const ilse = await signIn(browser, 'Ilse Brandacher')
  await picture(ilse, 'now')
  await go(ilse, 'My time')
  await ilse
    .getByRole('grid', { name: 'My days' })
    .getByTitle(/Post and travel/)
    .first()
    .waitFor()
  await ilse.keyboard.press('o')
  await ilse.getByRole('checkbox', { name: 'Done: Book the bus to the hut' }).waitFor()
  await picture(ilse, 'my-time')
  await ilse.keyboard.press('Escape')
  await ilse
    .getByTitle('08:30 to 09:30, Post and travel')
    .first()
    .click({ position: { x: 12, y: 14 } })
  await ilse.getByRole('button', { name: 'Invite people…' }).waitFor()
  await picture(ilse, 'entry')
  await ilse.keyboard.press('Escape')
  await ilse.goto(`${MARMOT}/settings?part=holidays`)
  await ilse
    .getByRole('row', { name: /Epiphany/ })
    .first()
    .waitFor()
  await picture(ilse, 'holidays')
  await go(ilse, 'People')
  await ilse.getByRole('gridcell', { name: /^Ilse Brandacher.*there, free/ }).waitFor()
  await picture(ilse, 'people')
  const phone = await signIn(browser, 'Ilse Brandacher', PHONE)
  await go(phone, 'My time')
  await phone
    .getByRole('grid', { name: 'My days' })
    .getByTitle(/Heads of teams/)
    .first()
    .waitFor()
  await picture(phone, 'my-time-phone')

  await go(ilse, 'Arrange')
  for (const name of ['Wanjiru', 'Tashi', 'Catalina', 'Declan', 'Aroha']) await addPerson(ilse, name)
  await ilse
    .getByRole('group', { name: 'What would help' })
    .getByRole('button', { name: /times?$/ })
    .first()
    .click()
  await more(ilse)
  await ilse.getByRole('button', { name: 'Begin anew' }).click()
  await brief(ilse, ['Matteo', 'Wanjiru', 'Tashi', 'Catalina', 'Declan', 'Severin'])
  await ilse
    .getByPlaceholder('Add a person, team, address')
    .fill('Mira Solberg <mira.solberg@lodestar.example>')
  await ilse.getByRole('option', { name: /as a guest/ }).click()
  await ilse.getByRole('gridcell', { name: /^Declan/ }).focus()
  await ilse.keyboard.press('o')
  await ilse.getByRole('button', { name: /^and \d+ more$/ }).click()
  await ilse
    .getByRole('button', { name: /^Serac/ })
    .last()
    .click()
  await ilse.keyboard.press('Escape')
  await picture(ilse, 'arrange')
  await ilse.getByRole('button', { name: /^Send \d/ }).click()
  await ilse.getByRole('button', { name: /and take Serac/ }).click()
  await ilse
    .getByRole('dialog')
    .getByText(/have not answered$/)
    .waitFor()

  const catalina = await signIn(browser, 'Catalina Reyes')
  await outing(catalina)
  await picture(catalina, 'outing')

  const tashi = await signIn(browser, 'Tashi Lhendup')
  await tashi.getByRole('button', { name: 'Firn core review' }).first().click()
  await tashi
    .getByRole('grid', { name: /My day around it/ })
    .first()
    .waitFor()
  await picture(tashi, 'invitation')
  await tashi.getByRole('button', { name: 'Propose another time' }).first().click()
  const proposing = tashi.getByRole('dialog', { name: 'Another time for Firn core review' })
  await proposing.getByLabel('From').fill('17:00')
  await proposing.getByRole('gridcell').nth(4).waitFor()
  await proposing.getByLabel(/^Words to/).fill('The bus from the ridge comes at three')
  await proposing.getByRole('button', { name: 'Propose it to Ilse Brandacher' }).click()
  await tashi.getByText('You proposed').waitFor()
  await tashi.getByRole('dialog').getByRole('button', { name: 'Yes, I come' }).click()

  const guest = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 }, timezoneId: 'America/New_York' })
  ).newPage()
  await openLetter(guest, 'mira.solberg@lodestar.example', /Firn core review/)
  await guest.goto((await guest.getByRole('link', { name: /\/i\// }).getAttribute('href')) ?? LETTERS)
  await guest.getByRole('heading', { name: 'Firn core review' }).waitFor()
  await picture(guest, 'guest')
  await guest.getByLabel('A message to Ilse Brandacher').fill('With the new radar traces')
  await guest.getByRole('button', { name: 'Yes, I come' }).click()
  await ilse
    .getByRole('dialog')
    .getByText(/^2 of 7 said yes/)
    .waitFor()
  await ilse.getByRole('dialog').getByText('Tashi Lhendup proposes another time').waitFor()
  await ilse
    .getByRole('dialog')
    .getByText(/can come then/)
    .waitFor()
  await picture(ilse, 'answers')

  const day =
    (await ilse
      .getByRole('dialog')
      .getByText(/^\w+day \d+ \w+, /)
      .first()
      .textContent()) ?? ''
  await ilse.getByRole('button', { name: 'Find another time' }).click()
  await ilse.getByText('Another time for').waitFor()
  await ilse.getByRole('group', { name: 'What would help' }).getByRole('button').first().click()
  await ilse
    .getByRole('list', { name: 'Times that work, best first' })
    .getByRole('listitem')
    .nth(1)
    .getByRole('button')
    .first()
    .click()
  await ilse.getByRole('button', { name: 'Look over the change…' }).click()
  await ilse.getByText('is told, and asked again').first().waitFor()
  await ilse.keyboard.press('Escape')
  await ilse.getByRole('button', { name: 'Leave it as it is' }).click()
  await ilse.getByRole('dialog', { name: 'Firn core review' }).getByText('organizes').waitFor()
  await ilse.keyboard.press('Escape')
  await go(ilse, 'Places')
  await ilse.getByLabel('Go to a date').fill(/\d+ \w+/.exec(day)?.[0] ?? '')
  await ilse.keyboard.press('Enter')
  await ilse.getByTitle(/Firn core review/).waitFor()
  const serac = await ilse.getByRole('gridcell', { name: /^Serac/ }).boundingBox()
  if (!serac) throw new Error('no lane')
  const at = (hour: number) => serac.x + (serac.width * hour) / 24
  await ilse.mouse.move(at(12), serac.y + 12)
  await ilse.mouse.down()
  await ilse.mouse.move(at(13.5), serac.y + 12, { steps: 6 })
  await ilse.mouse.up()
  const reserving = ilse.getByRole('region', { name: 'Reserve Serac' })
  await reserving.getByLabel('What for').fill('Sorting cores')
  await reserving.getByLabel('Repeats').selectOption('Every week')
  await reserving.getByLabel('Until when').selectOption('a number of times')
  await reserving.getByLabel('How many times').fill('6')
  await reserving.getByText(/^6 dates/).waitFor()
  await reserving.getByText(/^6 dates/).evaluate((element) => element.scrollIntoView({ block: 'start' }))
  await picture(ilse, 'places')
  await ilse.keyboard.press('Escape')
  await ilse.getByRole('button', { name: 'What I look after' }).click()
  await ilse.getByLabel('In groups by').selectOption('by place')
  await ilse.getByRole('row').nth(4).waitFor()
  await picture(ilse, 'reservations')
  await ilse.getByRole('button', { name: 'All places' }).click()
  await ilse.getByRole('button', { name: /^Firn/ }).click()
  await ilse.getByRole('link', { name: 'All about it, and its days' }).click()
  await ilse.getByRole('grid', { name: 'Days of Firn' }).waitFor()
  await ilse.getByLabel('my time beside it').check()
  await ilse
    .getByRole('gridcell', { name: /^My time/ })
    .first()
    .waitFor()
  await picture(ilse, 'place')
  await together(ilse, tashi)
  await picture(ilse, 'meeting')
  await asking(ilse, browser)
  await picture(ilse, 'poll')
  await offering(tashi)
  await picture(tashi, 'visitors')
  const visitor = await (
    await browser.newContext({ viewport: { width: 1280, height: 800 }, timezoneId: 'America/Lima' })
  ).newPage()
  await visitor.goto(`${MARMOT}/v/tashi/lab-visit?minutes=60&name=Rosa%20Quispe`)
  await visitor.getByRole('list', { name: 'Days with free times' }).getByRole('button').nth(2).click()
  await visitor.getByRole('region', { name: 'Times' }).getByRole('button').nth(1).click()
  await visitor.getByLabel('Your e-mail address').fill('rosa@lodestar.example')
  await picture(visitor, 'visit')
  await ilse.goto(`${MARMOT}/people?view=contacts`)
  await ilse.getByRole('table', { name: 'Contacts' }).getByRole('button').nth(6).waitFor()
  await ilse
    .getByRole('button', { name: /^Mira Solberg/ })
    .first()
    .click()
  await ilse.getByRole('dialog', { name: 'Mira Solberg' }).getByText('Firn core review').first().waitFor()
  await picture(ilse, 'contacts')
} finally {
  await browser.close()
  await stop()
}
