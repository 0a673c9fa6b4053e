import { z } from 'zod'

const port = z.coerce.number().int().min(0).max(65535)

const schema = z.object({
  PORT: port.default(4460),
  DATABASE_URL: z.string().min(1, 'is missing: it names the PostgreSQL to use'),
  SMTP_URL: z.string().default('smtp://127.0.0.1:4461'),
  MARMOT_MAIL_PORT: port.default(4462),
  MARMOT_MAILBOX_URL: z.string().optional(),
  MARMOT_URL: z.url({ protocol: /^https?$/, error: 'is no web address' }).optional(),
  MARMOT_MAIL_FROM: z.email('is no mail address').optional(),
  MARMOT_PROXY: z.enum(['0', '1']).default('0'),
  MARMOT_NOW: z.iso.datetime({ offset: true }).optional(),
  MARMOT_DEMO: z.enum(['0', '1']).default('1'),
  MARMOT_TAKE_BACK_SECONDS: z.coerce.number().min(0).max(3600).default(10),
  MARMOT_FEED_HOSTS: z.string().default(''),
  MARMOT_CONFERENCE_URL: z.url({ protocol: /^https?$/, error: 'is no web address' }).optional(),
  MARMOT_CONFERENCE_KEY: z.string().min(16, 'is shorter than 16 characters').optional(),
  MARMOT_WEATHER_URL: z.url({ protocol: /^https?$/, error: 'is no web address' }).optional(),
  MARMOT_ORGANISATION: z.string().trim().max(100).optional(),
  MARMOT_LOG: z.enum(['silent', 'info', 'debug']).default('info'),
})

/** What the environment says, checked. Ports of 0 mean any free one. */
export interface Settings {
  readonly port: number
  readonly databaseUrl: string
  readonly smtpUrl: string
  /** Where answers by mail come in (SMTP). */
  readonly mailPort: number
  /** The stand-in's page of mailboxes, linked from the demo; null when there is none. */
  readonly mailboxUrl: string | null
  /** The address that people reach Marmot under, for links in mail; null means this machine and port. */
  readonly url: string | null
  /** The address of Marmot's own that letters come from; null means `marmot` at the host of `url`. */
  readonly mailFrom: string | null
  /**
   * True behind a proxy that ends TLS: whether a request came by https, and from whom, is then what the proxy says in
   * X-Forwarded-Proto and -For. Without one, anybody could say so, and nothing is believed.
   */
  readonly proxy: boolean
  readonly now: string | null
  readonly demo: boolean
  /** How long what was sent or changed waits, in milliseconds, so that it can be taken back before anybody is told. */
  readonly takeBackMs: number
  /** Hosts with ports inside the house whose feeds may be read, as `localhost:4464`. */
  readonly feedHosts: ReadonlySet<string>
  /** The conference service that gives meetings a link and a number to join by; null where there is none. */
  readonly conference: { readonly url: string; readonly key: string } | null
  /** The weather service that is asked what is expected out of doors; null where there is none. */
  readonly weather: string | null
  /** The organisation's name, as people from outside read it; empty where none is said. */
  readonly organisation: string
  readonly log: 'silent' | 'info' | 'debug'
}

/** Reads the settings; throws with every fault named in one message. */
export const readSettings = (environment: Record<string, string | undefined>): Settings => {
  const read = schema.safeParse(environment)
  if (!read.success) {
    const faults = read.error.issues.map((issue) => `${issue.path.join('.')} ${issue.message}`)
    throw new Error(`Settings: ${faults.join('; ')}`)
  }
  const given = read.data
  const { MARMOT_CONFERENCE_URL: conferenceUrl, MARMOT_CONFERENCE_KEY: conferenceKey } = given
  if (Boolean(conferenceUrl) !== Boolean(conferenceKey))
    throw new Error('Settings: MARMOT_CONFERENCE_URL and MARMOT_CONFERENCE_KEY are given together')
  return {
    port: given.PORT,
    databaseUrl: given.DATABASE_URL,
    smtpUrl: given.SMTP_URL,
    mailPort: given.MARMOT_MAIL_PORT,
    mailboxUrl: given.MARMOT_MAILBOX_URL ?? null,
    url: given.MARMOT_URL?.replace(/\/$/, '') ?? null,
    mailFrom: given.MARMOT_MAIL_FROM ?? null,
    proxy: given.MARMOT_PROXY === '1',
    now: given.MARMOT_NOW ?? null,
    demo: given.MARMOT_DEMO === '1',
    takeBackMs: given.MARMOT_TAKE_BACK_SECONDS * 1000,
    feedHosts: new Set(given.MARMOT_FEED_HOSTS.split(',').filter(Boolean)),
    conference:
      conferenceUrl && conferenceKey ? { url: conferenceUrl.replace(/\/$/, ''), key: conferenceKey } : null,
    weather: given.MARMOT_WEATHER_URL?.replace(/\/$/, '') ?? null,
    organisation: given.MARMOT_ORGANISATION ?? (given.MARMOT_DEMO === '1' ? 'The Corrie Institute' : ''),
    log: given.MARMOT_LOG,
  }
}
