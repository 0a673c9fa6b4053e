import type { Person, Session } from '@marmot/contract/people'

/** A Monday morning in Innsbruck. */
export const NOW = Date.parse('2026-11-23T08:12:00Z')

const INNSBRUCK = '20000000-0000-4000-8000-000000000001'

/** Somebody at Innsbruck, by a name. */
export const aPerson = (name: string): Person => ({
  id: crypto.randomUUID(),
  name,
  address: `${name.toLowerCase().replace(' ', '.')}@corrie.example`,
  role: 'coordinator',
  siteId: INNSBRUCK,
  zone: 'Europe/Vienna',
  teams: ['Office'],
})

/** Ilse's session, with whatever is otherwise. */
export const aSession = (more: Partial<Session> = {}): Session => ({
  person: { ...aPerson('Ilse Brandacher'), id: '10000000-0000-4000-8000-000000000001' },
  display: {
    firstWeekday: 1,
    halfDayClock: false,
    shownFrom: 420,
    shownTo: 1200,
    secondZone: null,
    locale: 'en-GB',
  },
  answersQuietly: false,
  sites: [{ id: INNSBRUCK, name: 'Innsbruck', zone: 'Europe/Vienna' }],
  now: new Date(NOW).toISOString(),
  demo: true,
  mailbox: null,
  conferences: true,
  ...more,
})
