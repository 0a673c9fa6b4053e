import { appendFileSync, existsSync, readFileSync } from 'node:fs'
import { simpleParser } from 'mailparser'

/** One mail as it arrived. `copies` counts how often the same Message-ID was delivered; only the first is kept. */
export interface KeptMail {
  readonly id: string
  readonly to: string
  readonly from: string
  readonly fromName: string
  readonly subject: string
  readonly date: string
  readonly text: string
  readonly html: string
  readonly calendar: string
  readonly method: string
  readonly raw: string
  copies: number
}

const parse = async (raw: Buffer, to: string): Promise<KeptMail> => {
  const mail = await simpleParser(raw)
  const part = mail.attachments.find((attachment) => attachment.contentType === 'text/calendar')
  const calendar = part?.content.toString('utf8') ?? ''
  return {
    id: mail.messageId ?? `no-id-${Date.now()}`,
    to: to.toLowerCase(),
    from: mail.from?.value[0]?.address ?? '',
    fromName: mail.from?.value[0]?.name ?? '',
    subject: mail.subject ?? '(no subject)',
    date: new Date().toISOString(),
    text: mail.text ?? '',
    html: mail.html || '',
    calendar,
    method: /^METHOD:(\w+)/m.exec(calendar)?.[1] ?? '',
    raw: raw.toString('utf8'),
    copies: 1,
  }
}

/**
 * The mailboxes of everybody, in memory and in a file of one JSON line a delivery, so that a restart keeps them. As mail
 * stores do, a message whose id is there already is not shown twice.
 */
export const openMailboxes = async (file: string | null) => {
  const mails: KeptMail[] = []
  const keep = async (raw: Buffer, to: string) => {
    const mail = await parse(raw, to)
    const same = mails.find((one) => one.id === mail.id && one.to === mail.to)
    if (same) same.copies++
    else mails.push(mail)
  }
  if (file && existsSync(file)) {
    for (const line of readFileSync(file, 'utf8').split('\n').filter(Boolean)) {
      const { raw, to }: { raw: string; to: string } = JSON.parse(line)
      await keep(Buffer.from(raw, 'base64'), to)
    }
  }
  return {
    deliver: async (raw: Buffer, to: string) => {
      if (file) appendFileSync(file, `${JSON.stringify({ raw: raw.toString('base64'), to })}\n`)
      await keep(raw, to)
    },
    /** Addresses with the number of mails, by name. */
    list: () => {
      const counts = new Map<string, number>()
      for (const mail of mails) counts.set(mail.to, (counts.get(mail.to) ?? 0) + 1)
      return [...counts]
        .map(([address, count]) => ({ address, count }))
        .sort((a, b) => a.address.localeCompare(b.address))
    },
    /** A mailbox, newest first. */
    of: (address: string) => mails.filter((mail) => mail.to === address.toLowerCase()).reverse(),
    find: (id: string, address: string) =>
      mails.find((mail) => mail.id === id && mail.to === address.toLowerCase()) ?? null,
    all: () => mails,
  }
}

export type Mailboxes = Awaited<ReturnType<typeof openMailboxes>>
