import { startConferenceStandIn } from './conference/server.ts'
import { startMailStandIn } from './mail/server.ts'
import { startPartnerStandIn } from './partner/server.ts'
import { startWeatherStandIn } from './weather/server.ts'

const number = (name: string, otherwise: number): number => {
  const value = Number(process.env[name] ?? otherwise)
  if (!Number.isInteger(value) || value < 0 || value > 65535) throw new Error(`${name} is no port`)
  return value
}

const mail = await startMailStandIn({
  smtpPort: number('MAIL_SMTP_PORT', 4461),
  pagePort: number('MAIL_PAGE_PORT', 4463),
  file: process.env.MAIL_FILE ?? null,
  marmotMail: () => ({ host: '127.0.0.1', port: number('MARMOT_MAIL_PORT', 4462) }),
})
const ahead = process.env.MARMOT_NOW ? Date.parse(process.env.MARMOT_NOW) - Date.now() : 0
const now = () => Date.now() + ahead
const partner = await startPartnerStandIn({ port: number('PARTNER_PORT', 4464), now })
const weather = await startWeatherStandIn({ port: number('WEATHER_PORT', 4466), now })
const conference = await startConferenceStandIn({
  port: number('CONFERENCE_PORT', 4465),
  key: process.env.MARMOT_CONFERENCE_KEY ?? 'a key for this machine',
  file: process.env.CONFERENCE_FILE ?? null,
})
// The parent process waits for this line.
process.stdout.write(
  `listening ${mail.smtpPort} page ${mail.pagePort} partner ${partner.port} conference ${conference.port} weather ${weather.port}\n`,
)

const stop = () =>
  Promise.all([mail, partner, conference, weather].map((one) => one.stop())).then(() => process.exit(0))
process.on('SIGINT', stop)
process.on('SIGTERM', stop)
// Started by another program, it ends with it, also when that one is killed.
if (process.env.MARMOT_WITH_PARENT === '1') process.stdin.on('end', stop).resume()
