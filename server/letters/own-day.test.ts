import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startPartnerStandIn } from '../../standins/partner/server.ts'
import { type Client, startTestMarmot, TEST_START, type TestMarmot } from '../testing/marmot.ts'

const GUEST = 'noor.haddad@lodestar.example'

let marmot: TestMarmot
let ilse: Client
let matteo: Client
let partner: Awaited<ReturnType<typeof startPartnerStandIn>>
beforeAll(async () => {
  partner = await startPartnerStandIn({ port: 0, now: () => TEST_START })
  marmot = await startTestMarmot({ feedHosts: new Set([`localhost:${partner.port}`]) })
  ilse = await marmot.as('Ilse Brandacher')
  matteo = await marmot.as('Matteo Ruprechter')
  for (const [starts, title, more] of [
    ['2026-12-03T07:00', 'Boiler check', {}],
    ['2026-12-03T20:30', 'Choir', { private: true }],
  ] as const)
    await matteo.send('POST', '/api/entries', {
      title,
      starts,
      minutes: 45,
      zone: 'Europe/Vienna',
      shows: 'busy',
      ...more,
    })
})
afterAll(async () => {
  await marmot.stop()
  await partner.stop()
})

const invite = (title: string, more: Record<string, unknown> = {}) =>
  marmot.sendMeeting(ilse, {
    title,
    people: [{ id: matteo.person.id, required: true }],
    guests: [{ address: GUEST, name: 'Noor Haddad', required: true }],
    starts: '2026-12-03T18:30',
    ...more,
  })
const letter = (address: string, title: string) => {
  const found = marmot.mail.mailboxes.of(address).find((mail) => mail.subject.includes(title))
  if (!found) throw new Error(`No letter about ${title} came to ${address}`)
  return found
}

/** Width and height as the head of a PNG says them. */
const sizeOf = (png: Buffer) => [png.readUInt32BE(16), png.readUInt32BE(20)]

describe('the letter to a colleague who is invited', () => {
  it('shows their own day around the time, in words and as a picture that says the same', async () => {
    await invite('Hut books')
    const { text, html } = letter(matteo.person.address, 'Hut books')
    expect(text).toMatch(/Your day: You are free then/)
    expect(text).toMatch(/07:00 to 07:45 Boiler check\n[\s\S]*18:30 to 19:30 this meeting/)
    const [image = ''] = /<img [^>]*>/.exec(html) ?? []
    const attribute = (name: string) => new RegExp(` ${name}="([^"]*)"`).exec(image)?.[1] ?? ''
    const alt = attribute('alt')
    expect(alt).toContain('Your Thursday 3 December: ')
    expect(alt).toContain('18:30 to 19:30 this meeting')
    const png = Buffer.from(attribute('src').split(',')[1] ?? '', 'base64')
    expect(sizeOf(png)).toEqual([1200, 160])
  })

  it('names nothing that they keep private: it goes out by mail', async () => {
    await invite('Hut keys')
    const { text, html } = letter(matteo.person.address, 'Hut keys')
    expect(text).toContain('20:30 to 21:15 private')
    expect(`${text}${html}`).not.toContain('Choir')
  })

  it('has a button for each answer, each of which still asks to be confirmed', async () => {
    await invite('Hut lamps')
    for (const address of [matteo.person.address, GUEST]) {
      const { html } = letter(address, 'Hut lamps')
      const said = [...html.matchAll(/href="[^"]*[?;]say=(\w+)"[^>]*>([^<]*)</g)].map(([, ...one]) => one)
      expect(said).toEqual([
        ['accepted', 'Yes, I come'],
        ['tentative', 'Perhaps'],
        ['declined', 'No, I can’t'],
      ])
    }
  })

  it('is not shown to a guest, nor where nothing is asked', async () => {
    await invite('Hut stools')
    await invite('Hut wood', { rsvp: false })
    expect(letter(GUEST, 'Hut stools').text).not.toContain('Your day')
    const { text, html } = letter(matteo.person.address, 'Hut wood')
    expect(`${text}${html}`).not.toMatch(/Your day:|<img|say=/)
  })

  it('counts what they have in another calendar of theirs, without naming it', async () => {
    await matteo.send('PUT', `/api/feeds/read/${crypto.randomUUID()}`, {
      name: 'Lodestar',
      address: `http://localhost:${partner.port}/open-days.ics`,
      whose: 'mine',
    })
    await invite('Hut ropes', { starts: '2026-12-01T09:30' })
    const { text, html } = letter(matteo.person.address, 'Hut ropes')
    expect(text).toContain('You have something in another calendar then')
    expect(`${text}${html}`).not.toContain('Calibration')
  })
})
