import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { openMailboxes } from './mailboxes.ts'
import { mailboxesPage, mailPage } from './pages.ts'
import { replyText } from './reply.ts'

const invitation = [
  'BEGIN:VCALENDAR',
  'VERSION:2.0',
  'PRODID:-//x//EN',
  'METHOD:REQUEST',
  'BEGIN:VEVENT',
  'UID:meeting-1',
  'SEQUENCE:3',
  'ORGANIZER;CN=Ilse Brandacher:mailto:ilse.brandacher@corrie.example',
  'END:VEVENT',
  'END:VCALENDAR',
].join('\r\n')

const letter = (id: string, subject = 'Invitation: <b>Firn</b>') =>
  Buffer.from(
    [
      `Message-ID: <${id}@marmot.corrie.example>`,
      'From: Ilse Brandacher <ilse.brandacher@corrie.example>',
      `Subject: ${subject}`,
      'MIME-Version: 1.0',
      'Content-Type: multipart/alternative; boundary=x',
      '',
      '--x',
      'Content-Type: text/plain',
      '',
      'See http://localhost:4460/i/token here',
      '--x',
      'Content-Type: text/calendar; method=REQUEST',
      '',
      invitation,
      '--x--',
    ].join('\r\n'),
  )

let folder: string
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'marmot-letters-'))
})
afterEach(() => rmSync(folder, { recursive: true, force: true }))

describe('the mailboxes', () => {
  it('keep a letter for each address, newest first, whatever the case', async () => {
    const boxes = await openMailboxes(null)
    await boxes.deliver(letter('one'), 'Noor@Lodestar.example')
    await boxes.deliver(letter('two'), 'noor@lodestar.example')
    await boxes.deliver(letter('one'), 'sven@lodestar.example')
    expect(boxes.of('NOOR@lodestar.example').map((mail) => mail.id)).toEqual([
      '<two@marmot.corrie.example>',
      '<one@marmot.corrie.example>',
    ])
    expect(boxes.list()).toEqual([
      { address: 'noor@lodestar.example', count: 2 },
      { address: 'sven@lodestar.example', count: 1 },
    ])
  })

  it('show a letter that is delivered again once, and count its copies', async () => {
    const boxes = await openMailboxes(null)
    for (let i = 0; i < 3; i++) await boxes.deliver(letter('one'), 'noor@lodestar.example')
    expect(boxes.of('noor@lodestar.example')).toMatchObject([{ copies: 3, method: 'REQUEST' }])
  })

  it('are there again after a restart', async () => {
    const file = join(folder, 'letters.jsonl')
    await (await openMailboxes(file)).deliver(letter('one'), 'noor@lodestar.example')
    const again = await openMailboxes(file)
    expect(again.of('noor@lodestar.example')).toMatchObject([
      { subject: 'Invitation: <b>Firn</b>', fromName: 'Ilse Brandacher' },
    ])
  })
})

describe('its pages', () => {
  it('show letters as text, with links to press and nothing to run', async () => {
    const boxes = await openMailboxes(null)
    await boxes.deliver(letter('one'), 'noor@lodestar.example')
    const [mail] = boxes.of('noor@lodestar.example')
    if (!mail) throw new Error('no letter')
    const page = mailPage(mail, { words: 'It came back: <script>', refused: true })
    expect(page).toContain('<a href="http://localhost:4460/i/token">')
    expect(page).not.toContain('<b>Firn')
    expect(page).not.toContain('<script>')
    expect(page).toContain('Reply yes')
    expect(mailboxesPage(boxes)).toContain('1 letter<')
  })
})

describe('a reply', () => {
  it('answers the same meeting for its own address', () => {
    const text = replyText(invitation, 'noor@lodestar.example', {
      answer: 'declined',
      comment: 'Away; sorry',
    })
    expect(text).toMatch(/^METHOD:REPLY\r$/m)
    expect(text).toMatch(/^UID:meeting-1\r$/m)
    expect(text).toMatch(/^SEQUENCE:3\r$/m)
    expect(text).toMatch(/^ATTENDEE;PARTSTAT=DECLINED:mailto:noor@lodestar\.example\r$/m)
    expect(text).toMatch(/^COMMENT:Away\\; sorry\r$/m)
  })
})
