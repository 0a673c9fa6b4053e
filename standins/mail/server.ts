import { createServer, type IncomingMessage } from 'node:http'
import type { AddressInfo } from 'node:net'
import { SMTPServer } from 'smtp-server'
import { type Diary, openDiary } from './diary.ts'
import { openMailboxes } from './mailboxes.ts'
import { openOrganizer } from './organizer.ts'
import { lostPage, mailboxesPage, mailboxPage, mailPage, organizerPage } from './pages.ts'
import { type Back, CHOICES, type Choice, sendReply } from './reply.ts'

const readForm = async (request: IncomingMessage): Promise<URLSearchParams> => {
  let text = ''
  for await (const part of request) {
    text += part
    if (text.length > 20_000) break
  }
  return new URLSearchParams(text)
}

const isChoice = (text: string): text is Choice => text in CHOICES

/** What a form sends back; null when it is nothing whole. */
const backIn = (form: URLSearchParams): Back | null => {
  const comment = form.get('comment') ?? ''
  const answer = form.get('answer') ?? ''
  if (isChoice(answer)) return { answer, comment }
  const delegate = form.get('delegate')?.trim() ?? ''
  if (answer === 'delegate') return delegate.includes('@') ? { delegate, comment } : null
  const start = new Date(`${form.get('start') ?? ''}Z`)
  const minutes = Number(form.get('minutes') ?? 60)
  return answer === 'propose' && !Number.isNaN(start.getTime()) && minutes > 0
    ? { start, minutes, comment }
    : null
}

export interface MailStandIn {
  readonly smtpPort: number
  readonly pagePort: number
  readonly mailboxes: Awaited<ReturnType<typeof openMailboxes>>
  readonly stop: () => Promise<void>
}

/** Nobody's mailbox anywhere: letters to it are refused, as those with a misspelt address would be. */
const NO_MAILBOX = 'nobody'

/**
 * A simulated mail server: it takes mail for almost everybody by SMTP, shows the mailboxes on a page, and sends answers to
 * Marmot by SMTP as a guest's mail program would. Ports of 0 mean any free one; `file` keeps the letters.
 */
export const startMailStandIn = async (given: {
  smtpPort: number
  pagePort: number
  file: string | null
  marmotMail: () => { host: string; port: number }
}): Promise<MailStandIn> => {
  const mailboxes = await openMailboxes(given.file)
  const smtp = new SMTPServer({
    disabledCommands: ['AUTH', 'STARTTLS'],
    logger: false,
    onRcptTo: ({ address }, _session, done) =>
      address.startsWith(`${NO_MAILBOX}@`)
        ? done(Object.assign(new Error('There is no such mailbox here.'), { responseCode: 550 }))
        : done(),
    onData: (stream, session, done) => {
      const parts: Buffer[] = []
      stream.on('data', (part: Buffer) => parts.push(part))
      stream.on('end', () => {
        const raw = Buffer.concat(parts)
        Promise.all(session.envelope.rcptTo.map((to) => mailboxes.deliver(raw, to.address))).then(
          () => done(),
          done,
        )
      })
    },
  })
  smtp.on('error', () => undefined)

  const organizer = openOrganizer(given.file && `${given.file}.organized`, given.marmotMail)

  /** The diary of a mailbox: all its letters taken in, in the order in which they came. */
  const diaryOf = (address: string): Diary => {
    const diary = openDiary(address.toLowerCase())
    for (const mail of mailboxes.of(address).reverse()) diary.take(mail.method, mail.calendar)
    return diary
  }

  const organize = async (form: URLSearchParams): Promise<{ words: string; refused: boolean }> => {
    const text = (name: string) => form.get(name)?.trim() ?? ''
    const start = Date.parse(`${text('start')}Z`)
    const uid = text('uid')
    try {
      if (text('act') === 'cancel') await organizer.cancel(uid, text('comment'))
      else if (Number.isNaN(start)) return { words: 'Choose a day and a time.', refused: true }
      else if (text('act') === 'move') await organizer.move(uid, start)
      else {
        const [from, to] = [text('from').toLowerCase(), text('to').toLowerCase()]
        if (!from.includes('@') || !to.includes('@') || !text('title'))
          return { words: 'Give two addresses and a title.', refused: true }
        await organizer.invite({
          from,
          to,
          title: text('title'),
          start,
          minutes: Number(text('minutes')) || 60,
          link: text('link'),
        })
      }
      return { words: 'It was sent.', refused: false }
    } catch (error) {
      return { words: `It came back: ${error instanceof Error ? error.message : 'unknown'}`, refused: true }
    }
  }

  const answer = async (
    request: IncomingMessage,
  ): Promise<{ status: number; html?: string; json?: unknown; to?: string }> => {
    const url = new URL(request.url ?? '/', 'http://localhost')
    const [, area, address, id, action] = url.pathname.split('/').map(decodeURIComponent)
    if (url.pathname === '/') return { status: 200, html: mailboxesPage(mailboxes) }
    if (url.pathname === '/letters.json') {
      const letters = mailboxes.all().map(({ raw: _, ...letter }) => letter)
      return { status: 200, json: letters }
    }
    if (url.pathname === '/organize') {
      if (request.method !== 'POST') return { status: 200, html: organizerPage(organizer.list(), null) }
      const said = await organize(await readForm(request))
      return { status: said.refused ? 422 : 200, html: organizerPage(organizer.list(), said) }
    }
    if (area !== 'box' || !address) return { status: 404, html: lostPage() }
    if (!id) return { status: 200, html: mailboxPage(address, mailboxes.of(address), diaryOf(address)) }
    const mail = mailboxes.find(id, address)
    if (!mail) return { status: 404, html: lostPage() }
    if (action === 'reply' && request.method === 'POST') {
      const back = backIn(await readForm(request))
      if (!back)
        return {
          status: 422,
          html: mailPage(mail, {
            words: 'Choose an answer, an address, or a time that is on a calendar.',
            refused: true,
          }),
        }
      try {
        await sendReply(mail, back, given.marmotMail())
        return { status: 200, html: mailPage(mail, { words: 'Your answer was sent.', refused: false }) }
      } catch (error) {
        const words = error instanceof Error ? error.message : 'unknown'
        return {
          status: 200,
          html: mailPage(mail, { words: `Your answer came back: ${words}`, refused: true }),
        }
      }
    }
    // As it came, pictures and all.
    if (action === 'look' && mail.html) return { status: 200, html: mail.html }
    return { status: 200, html: mailPage(mail, null) }
  }
  const http = createServer((request, response) => {
    answer(request).then(
      ({ status, html, json }) => {
        response.writeHead(status, { 'content-type': json ? 'application/json' : 'text/html; charset=utf-8' })
        response.end(json ? JSON.stringify(json) : html)
      },
      () => {
        response.writeHead(500)
        response.end('The mail stand-in failed.')
      },
    )
  })
  await new Promise<void>((resolve, reject) => {
    smtp.once('error', reject)
    smtp.listen(given.smtpPort, '127.0.0.1', () => resolve())
  })
  await new Promise<void>((resolve, reject) => {
    http.once('error', reject)
    http.listen(given.pagePort, '127.0.0.1', () => resolve())
  })
  return {
    smtpPort: (smtp.server.address() as AddressInfo).port,
    pagePort: (http.address() as AddressInfo).port,
    mailboxes,
    stop: async () => {
      http.closeAllConnections()
      await new Promise((resolve) => http.close(resolve))
      await new Promise<void>((resolve) => smtp.close(() => resolve()))
    },
  }
}
