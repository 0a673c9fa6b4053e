import { createHash, randomUUID } from 'node:crypto'
import { emptyBrief } from '@marmot/contract/briefs'
import { addItem } from '@marmot/core/agenda'
import { WebSocket } from 'ws'
import { WebsocketProvider } from 'y-websocket'
import * as Y from 'yjs'
import type { Large } from './large.ts'

type Ask = <T>(method: string, route: string, path: string, body?: unknown) => Promise<T>

const RANGE = 'from=2026-11-23T00:00:00Z&to=2026-12-07T00:00:00Z'
const [FROM, TO] = ['2026-11-23T00:00:00Z', '2026-12-07T00:00:00Z']
const TODAY = Math.floor(Date.UTC(2026, 10, 23) / 86_400_000)

const anEntry = (more: Record<string, unknown> = {}) => ({
  title: 'Asked for its plan',
  starts: '2026-12-01T09:00',
  minutes: 30,
  zone: 'Europe/Vienna',
  ...more,
})

/** Who asks, and whom and what the questions are about. */
interface About {
  readonly ask: Ask
  readonly large: Large
  readonly me: string
  readonly others: readonly string[]
  readonly place: { readonly id: string } | undefined
}

const getting =
  (ask: Ask) =>
  (route: string, path = route) =>
    ask('GET', route, path)

const aboutWhom = async (ask: Ask, large: Large): Promise<About> => {
  const me = (await ask<{ person: { id: string } }>('GET', '/api/session', '/api/session')).person.id
  const others = (
    await large.pool.query<{ id: string }>('select id from person where id <> $1 order by name limit 60', [
      me,
    ])
  ).rows.map((row) => row.id)
  const [place] = (
    await large.pool.query<{ id: string }>(
      "select id from resource where kind = 'room' and turnaround_minutes = 0 limit 1",
    )
  ).rows
  return { ask, large, me, others, place }
}

const askPeople = async ({ ask, me, others }: About): Promise<void> => {
  const get = getting(ask)
  const other = others[0] ?? me
  await ask('POST', '/api/session', '/api/session', { address: 'nobody@corrie.example', password: 'wrong' })
  await get('/api/sign-in-choices')
  await get('/api/people', '/api/people?q=ma')
  await get('/api/directory')
  await ask('POST', '/api/people', '/api/people', { ids: others })
  const preferences = await ask<Record<string, unknown>>('GET', '/api/preferences', '/api/preferences')
  await ask('PUT', '/api/preferences', '/api/preferences', preferences)
  await get('/api/sharing')
  const grant = await ask<{ grantId: string }>('PUT', '/api/sharing', '/api/sharing', {
    to: 'person',
    id: other,
    sees: 'everything',
    does: 'stand-in',
    seesPrivate: false,
    until: null,
  })
  await get(
    '/api/availability/preview',
    `/api/availability/preview?to=person&id=${other}&from=${FROM}&until=${TO}`,
  )
  await ask('DELETE', '/api/sharing/:grantId', `/api/sharing/${grant.grantId}`)
  await ask('POST', '/api/availability', '/api/availability', { people: others, from: FROM, to: TO })
  await get('/api/layers')
  const set = randomUUID()
  await ask('PUT', '/api/layers/:setId', `/api/layers/${set}`, { name: 'Plans', layers: [] })
  await ask('DELETE', '/api/layers/:setId', `/api/layers/${set}`)
}

const askEntries = async ({ ask, large }: About): Promise<void> => {
  const get = getting(ask)
  await get('/api/entries', `/api/entries?${RANGE}`)
  const made = await ask<{ entryId: string; changeId: string }>(
    'POST',
    '/api/entries',
    '/api/entries',
    anEntry({ repetition: { rule: 'FREQ=WEEKLY;COUNT=4' }, reminders: [15] }),
  )
  const one = `/api/entries/${made.entryId}`
  await get('/api/entries/:entryId', `${one}?recurrence=2026-12-01T09:00`)
  const category = randomUUID()
  await ask('PUT', '/api/categories/:categoryId', `/api/categories/${category}`, { name: category, tone: 1 })
  await get('/api/categories')
  await ask('PUT', '/api/entries/:entryId/mine', `${one}/mine`, { categoryId: category, reminders: [20] })
  await ask('DELETE', '/api/categories/:categoryId', `/api/categories/${category}`)
  const file = await large.send('POST', `${one}/attachments?name=plan.txt`, Buffer.from('plan'))
  const { id: attachmentId } = (await file.json()) as { id: string }
  await ask('POST', '/api/entries/:entryId/attachments', `${one}/attachments?name=empty.txt`)
  await get('/api/attachments/:attachmentId', `/api/attachments/${attachmentId}`)
  await ask('DELETE', '/api/attachments/:attachmentId', `/api/attachments/${attachmentId}`)
  await ask('POST', '/api/attachments/:attachmentId/restore', `/api/attachments/${attachmentId}/restore`)
  const changed = await ask<{ changeId: string; version: number }>('PUT', '/api/entries/:entryId', one, {
    ...anEntry({ title: 'Changed for its plan' }),
    recurrence: '2026-12-01T09:00',
    version: 1,
    scope: 'following',
  })
  await ask('POST', '/api/changes/:changeId/undo', `/api/changes/${changed.changeId}/undo`)
  await get('/api/changes')
  await ask('DELETE', '/api/entries/:entryId', `${one}?recurrence=2026-12-01T09:00&version=3&scope=all`)
}

const askFeeds = async ({ ask, large }: About): Promise<void> => {
  const get = getting(ask)
  await get('/api/feeds')
  const published = await ask<{ id: string; address: string }>(
    'POST',
    '/api/feeds/published',
    '/api/feeds/published',
    { kind: 'calendar', sees: 'everything', months: 2 },
  )
  await get('/api/published/:token', new URL(published.address).pathname)
  await ask('PUT', '/api/feeds/published/:feedId', `/api/feeds/published/${published.id}`, { sees: 'busy' })
  await ask('DELETE', '/api/feeds/published/:feedId', `/api/feeds/published/${published.id}`)
  const feed = randomUUID()
  const read = `/api/feeds/read/${feed}`
  await ask('PUT', '/api/feeds/read/:feedId', read, {
    name: 'Plans',
    address: 'http://127.0.0.1:1/x',
    everyMinutes: 60,
  })
  await ask('POST', '/api/feeds/read/:feedId/fetch', `${read}/fetch`)
  await get('/api/feeds/spans', `/api/feeds/spans?feeds=${feed}&${RANGE}`)
  await ask('DELETE', '/api/feeds/read/:feedId', read)
  await get('/api/export', `/api/export?${RANGE}`)
  const calendar = [
    'BEGIN:VCALENDAR',
    'BEGIN:VEVENT',
    `UID:${randomUUID()}`,
    'DTSTART:20261202T090000Z',
    'RRULE:FREQ=DAILY;COUNT=3',
    'END:VEVENT',
    'END:VCALENDAR',
  ].join('\r\n')
  const looked = await large.send('POST', '/api/imports', Buffer.from(calendar))
  const { importId } = (await looked.json()) as { importId: string }
  await ask('POST', '/api/imports', '/api/imports')
  await ask('POST', '/api/imports/:importId/take', `/api/imports/${importId}/take`)
}

const askOpenings = async ({ ask, me, others, place }: About): Promise<void> => {
  const get = getting(ask)
  await get('/api/resources')
  await get('/api/reservations', `/api/reservations?${RANGE}`)
  await ask('POST', '/api/openings', '/api/openings', {
    brief: {
      ...emptyBrief(TODAY, me),
      people: [me, ...others].map((id, i) => ({ id, required: i < 4, group: null })),
      places: place ? [place.id] : [],
      rules: { ...emptyBrief(TODAY, me).rules, stretch: 60 },
    },
  })
  await ask('POST', '/api/openings/balance', '/api/openings/balance', { people: others })
  await get('/api/briefs')
  const template = randomUUID()
  await ask('PUT', '/api/briefs/:templateId', `/api/briefs/${template}`, {
    name: 'Plans',
    brief: emptyBrief(TODAY, me),
  })
  await ask('DELETE', '/api/briefs/:templateId', `/api/briefs/${template}`)
  const hold = `/api/holds/${randomUUID()}`
  await ask('PUT', '/api/holds/:holdId', hold, {
    title: 'Held',
    starts: '2026-12-02T19:00',
    minutes: 30,
    zone: 'Europe/Vienna',
    places: [],
    until: '2026-11-24T08:00:00Z',
  })
  await get('/api/holds/:holdId', hold)
  await ask('DELETE', '/api/holds/:holdId', hold)
}

const askMeetings = async ({ ask, large, me, others, place }: About): Promise<void> => {
  const get = getting(ask)
  const other = others[0] ?? me
  const meeting = await ask<{ entryId: string }>('POST', '/api/meetings', '/api/meetings', {
    ...anEntry({ title: 'Met for its plan', starts: '2026-12-02T20:00' }),
    people: [{ id: other, required: true }],
    guests: [{ address: 'plan@lodestar.example', name: 'Plan', required: true }],
    places: place ? [place.id] : [],
    series: { rule: 'FREQ=WEEKLY;COUNT=3', changes: [] },
  })
  const at = `/api/meetings/${meeting.entryId}`
  await get('/api/meetings/:entryId', at)
  await get('/api/meetings/:entryId/dates', `${at}/dates`)
  await get('/api/invitations')
  const asked = await large.pool.query<{ entry_id: string }>(
    "select entry_id from participant where person_id = $1 and not organizer and answer = 'needs-action' limit 1",
    [me],
  )
  const invited = asked.rows[0]?.entry_id ?? meeting.entryId
  await ask('POST', '/api/meetings/:entryId/answer', `/api/meetings/${invited}/answer`, {
    answer: 'accepted',
  })
  await get('/api/now')
  await get('/api/now/count')
  const todoMade = await ask<{ id: string }>('POST', '/api/todos', '/api/todos', {
    title: 'Order saw blades',
    due: '2026-11-27T00:00',
    zone: 'Europe/Vienna',
  })
  const todo = '/api/todos/:todoId'
  const ofTodo = `/api/todos/${todoMade.id}`
  const rosa = await ask<{ id: string }>('POST', '/api/contacts', '/api/contacts', {
    name: 'Rosa Lind',
    addresses: ['rosa.asked@lodestar.example'],
  })
  const contact = '/api/contacts/:contactId'
  const ofContact = `/api/contacts/${rosa.id}`
  await get('/api/contacts')
  await get(contact, ofContact)
  await ask('PUT', contact, ofContact, {
    name: 'Rosa',
    addresses: ['rosa.asked@lodestar.example'],
    version: 1,
  })
  await ask('PUT', `${contact}/about`, `${ofContact}/about`, { kind: 'todo', id: todoMade.id, about: true })
  await get('/api/contacts/about', `/api/contacts/about?kind=todo&id=${todoMade.id}`)
  const file = await large.send('GET', '/api/contacts/file')
  await file.body?.cancel()
  await ask('GET', '/api/contacts/file', '/api/health')
  await large.send(
    'POST',
    '/api/contacts/file?take=no',
    Buffer.from('BEGIN:VCARD\r\nVERSION:4.0\r\nFN:x\r\nEND:VCARD\r\n'),
  )
  await ask('POST', '/api/contacts/file', '/api/health')
  await ask('DELETE', contact, ofContact)
  await ask('POST', `${contact}/restore`, `${ofContact}/restore`)
  await askOutside(ask, large)
  await get('/api/todos')
  await get(todo, ofTodo)
  await ask('PUT', todo, ofTodo, { title: 'Order blades', zone: 'Europe/Vienna', version: 1 })
  await ask('DELETE', todo, `${ofTodo}?version=2`)
  await ask('POST', `${todo}/restore`, `${ofTodo}/restore`)
  await get('/api/reminders')
  const reminder = await large.pool.query<{ id: string }>(
    'select id from reminder where person_id = $1 and dismissed_at is null limit 1',
    [me],
  )
  const reminderId = reminder.rows[0]?.id ?? randomUUID()
  await ask('POST', '/api/reminders/:reminderId/snooze', `/api/reminders/${reminderId}/snooze`, {
    minutes: 5,
  })
  await ask('POST', '/api/reminders/:reminderId/dismiss', `/api/reminders/${reminderId}/dismiss`)
  const token = 'x'.repeat(43)
  await get('/api/invitations/:token', `/api/invitations/${token}`)
  await ask('POST', '/api/invitations/:token/answer', `/api/invitations/${token}/answer`, {
    answer: 'accepted',
  })
  await ask('POST', '/api/invitations/:token/renew', `/api/invitations/${token}/renew`)
  await get('/api/meetings/:entryId/proposals', `${at}/proposals`)
  const proposed = { start: '2026-12-17T08:00:00Z', minutes: 30 }
  const theirs = `/api/meetings/${invited}`
  await ask('POST', '/api/meetings/:entryId/proposals', `${theirs}/proposals`, proposed)
  await ask('POST', '/api/meetings/:entryId/delegate', `${theirs}/delegate`, { to: { person: other } })
  await ask('POST', '/api/invitations/:token/proposals', `/api/invitations/${token}/proposals`, proposed)
  const proposal = `/api/proposals/${randomUUID()}`
  await ask('POST', '/api/proposals/:proposalId/take', `${proposal}/take`, { version: 1 })
  await ask('POST', '/api/proposals/:proposalId/refuse', `${proposal}/refuse`, {})
  await ask('DELETE', '/api/proposals/:proposalId', proposal)
  await ask('POST', '/api/meetings/:entryId/nudge', `${at}/nudge`, {})
  await ask('POST', '/api/meetings/:entryId/change/look', `${at}/change/look`, { title: 'Met', version: 1 })
  for (const q of ['plan', 'core rev', 'tashi', 'qqqqq'])
    await get('/api/search', `/api/search?q=${encodeURIComponent(q)}`)
  await ask('POST', '/api/meetings/:entryId/change', `${at}/change`, {
    recurrence: '2026-12-16T20:00',
    scope: 'this',
    starts: '2026-12-16T21:00',
    version: 1,
  })
  await ask('POST', '/api/meetings/:entryId/change', `${at}/change`, {
    title: 'Met otherwise',
    people: [],
    version: 2,
  })
  await ask('POST', '/api/meetings/:entryId/cancel', `${at}/cancel`, { recurrence: '2026-12-09T20:00' })
  await ask('POST', '/api/meetings/:entryId/cancel', `${at}/cancel`, {})
}

/** Writes a line into an agenda, as a browser does, and waits until it is added up. */
const writeAgenda = async ({ large }: About, entryId: string): Promise<void> => {
  const document = new Y.Doc()
  class Socket extends WebSocket {
    constructor(address: string) {
      super(address, { headers: { cookie: large.cookie } })
    }
  }
  const address = `${large.url.replace('http', 'ws')}/api/meetings/${entryId}/agenda`
  const provider = new WebsocketProvider(address, 'live', document, {
    disableBc: true,
    WebSocketPolyfill: Socket as never,
  })
  await new Promise((resolve) => provider.once('sync', resolve))
  addItem(document, randomUUID())
  const end = Date.now() + 30_000
  const settled = async () =>
    (
      await large.pool.query(
        "select 1 from agenda a join occurrence o on o.id = a.occurrence_id where o.entry_id = $1 and a.text <> ''",
        [entryId],
      )
    ).rowCount
  while (!(await settled()) && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 200))
  provider.destroy()
}

const askAround = async (about: About): Promise<void> => {
  const { ask, large, others } = about
  const get = getting(ask)
  const [first, second] = others
  const { entryId } = await ask<{ entryId: string }>(
    'POST',
    '/api/meetings/right-away',
    '/api/meetings/right-away',
    {
      people: [first],
      guests: [{ address: 'around@lodestar.example' }],
    },
  )
  const at = `/api/meetings/${entryId}`
  const guest = await large.pool.query<{ id: string }>(
    'select id from participant where entry_id = $1 and guest_address is not null',
    [entryId],
  )
  const token = randomUUID().repeat(2)
  await large.pool.query(
    `insert into link (token_hash, purpose, subject_id, expires_at, made_at) values ($1, 'answer', $2, '2026-12-31', '2026-11-23')`,
    [createHash('sha256').update(token).digest(), guest.rows[0]?.id],
  )
  const link = `/api/invitations/${token}`
  await writeAgenda(about, entryId)
  for (const [route, path] of [
    ['/api/meetings/:entryId', at],
    ['/api/invitations/:token', link],
  ] as const) {
    await get(`${route}/agenda`, `${path}/agenda`)
    await get(`${route}/agenda/live`, `${path}/agenda/live`)
    const said = await ask<{ messageId: string }>('POST', `${route}/conversation`, `${path}/conversation`, {
      text: 'Asked for its plan',
    })
    await get(`${route}/conversation`, `${path}/conversation`)
    const added = await large.send('POST', `${path}/files?name=plan.txt`, Buffer.from('a plan'))
    const file = (await added.json()) as { id: string }
    await ask('POST', `${route}/files`, '/api/health')
    if (route === '/api/invitations/:token') {
      await get(`${route}/files/:attachmentId`, `${path}/files/${file.id}`)
      await ask('DELETE', `${route}/messages/:messageId`, `${path}/messages/${said.messageId}`)
    } else {
      const message = `/api/messages/${said.messageId}`
      await get('/api/attachments/:attachmentId', `/api/attachments/${file.id}`)
      await ask('DELETE', '/api/messages/:messageId', message)
      await ask('POST', '/api/messages/:messageId/restore', `${message}/restore`)
    }
    // Coming in is reported by the conference service.
    const joined = await ask<{ link: string }>('POST', `${route}/join`, `${path}/join`, {})
    const door = new URL(joined.link)
    await fetch(`${door.origin}${door.pathname}/join`, {
      method: 'POST',
      body: new URLSearchParams({ ticket: door.searchParams.get('ticket') ?? '' }),
      redirect: 'manual',
    })
  }
  await ask('POST', '/api/conferences/seats', '/api/conferences/seats')
  await ask('POST', '/api/meetings/:entryId/conversation/read', `${at}/conversation/read`)
  await ask('POST', '/api/meetings/:entryId/call', `${at}/call`, { to: { person: second } })
  await ask('POST', '/api/meetings/:entryId/call', `${at}/call`, { to: { number: '+43 664 555 01' } })
  await get('/api/calls')
  await ask('DELETE', '/api/calls/:callId', `/api/calls/${randomUUID()}`)
  await get('/api/meetings/:entryId/record', `${at}/record`)
  const events = await large.send('GET', `${link}/events`)
  await events.body?.cancel()
  await ask('GET', '/api/invitations/:token/events', '/api/health')
  await ask('POST', '/api/meetings/:entryId/cancel', `${at}/cancel`, {})
}

/** Holidays, days on which a site is closed, and the weather there. */
const askOutside = async (ask: Ask, large: Large): Promise<void> => {
  const get = getting(ask)
  const { sites } = await ask<{ sites: { id: string; name: string }[] }>(
    'GET',
    '/api/session',
    '/api/session',
  )
  const site = sites.find((one) => one.name === 'Innsbruck')?.id ?? ''
  await large.pool.query('update site set latitude = 47, longitude = 11 where latitude is null')
  await get('/api/holiday-regions')
  await ask('PUT', '/api/sites/:siteId/holidays', `/api/sites/${site}/holidays`, { region: 'AT-7' })
  await get('/api/site-days')
  const said = { first: '2027-03-01', last: '2027-03-02', name: 'Asked for its plan', shut: true }
  const { day } = await ask<{ day: { id: string } }>('POST', '/api/site-days', '/api/site-days', {
    ...said,
    siteId: site,
  })
  const [route, path] = ['/api/site-days/:dayId', `/api/site-days/${day.id}`]
  await ask('PUT', route, path, { ...said, version: 1 })
  await ask('DELETE', route, path)
  await ask('POST', `${route}/restore`, `${path}/restore`, {})
  await ask('PUT', '/api/site-days/worked/:day', '/api/site-days/worked/2026-12-08', { works: true })
  const file = await large.send('GET', `/api/sites/${site}/holidays/file`)
  await file.body?.cancel()
  await ask('GET', '/api/sites/:siteId/holidays/file', '/api/health')
  await get('/api/weather', `/api/weather?sites=${sites.map((one) => one.id).join(',')}`)
}

/** Places of Ilse's own: looked through, reserved, looked after, closed, made room in, kept as a list. */
const askPlaces = async ({ ask, large, others }: About): Promise<void> => {
  const get = getting(ask)
  const rows = await large.pool.query<{ id: string; site: string }>(
    `select r.id, r.site_id as site from resource r join person p on p.id = r.steward_id
      where p.name = 'Ilse Brandacher' and r.kind = 'room' and r.name like 'Nunatak %' limit 1`,
  )
  const { id = '', site = '' } = rows.rows[0] ?? {}
  const path = `/api/resources/${id}`
  const then = { starts: '2027-06-01T09:00', minutes: 60, zone: 'Europe/Vienna' }
  for (const whose of ['mine', 'cared']) {
    const list = `whose=${whose}&${RANGE}`
    await get('/api/reservations/list', `/api/reservations/list?${list}&find=core&sort=place&group=by`)
    await get('/api/reservations/list.csv', `/api/reservations/list.csv?${list}`)
  }
  await get('/api/contact')
  await get(
    '/api/reservations/fill',
    '/api/reservations/fill?first=2026-11-23&days=49&zone=Europe/Vienna&kind=room',
  )
  await ask('POST', '/api/reservations/look', '/api/reservations/look', { ...then, places: [id] })
  const rules = await ask<{ rules: Record<string, unknown>; version: number }>(
    'GET',
    '/api/resources/:resourceId/rules',
    `${path}/rules`,
  )
  await ask('POST', '/api/resources/:resourceId/rules/look', `${path}/rules/look`, rules.rules)
  await ask('PUT', '/api/resources/:resourceId/rules', `${path}/rules`, {
    ...rules.rules,
    version: rules.version,
  })
  const closing = { starts: '2026-12-02T00:00', minutes: 1440, zone: 'Europe/Vienna', reason: 'swept' }
  await ask('POST', '/api/resources/:resourceId/closures/look', `${path}/closures/look`, closing)
  const closed = await ask<{ closureId: string }>(
    'POST',
    '/api/resources/:resourceId/closures',
    `${path}/closures`,
    { ...closing, ...then, moves: [] },
  )
  await ask(
    'DELETE',
    '/api/resources/:resourceId/closures/:closureId',
    `${path}/closures/${closed.closureId}`,
  )
  await ask('POST', '/api/requests/:entryId/:resourceId', `/api/requests/${randomUUID()}/${id}`, {
    grant: true,
  })
  // Somebody else's, asked for as if its steward had to decide.
  const requested = await large.pool.query<{ id: string; entryId: string }>(
    `update reservation set state = 'requested', lapses_at = '2026-12-30'
      where id = (select id from reservation where resource_id = $1 and state = 'taken' and lower(span) > '2026-12-10' limit 1)
      returning id, (select entry_id from occurrence o where o.id = occurrence_id) as "entryId"`,
    [id],
  )
  const [request] = requested.rows
  if (!request) throw new Error('nothing is reserved of the place')
  const route = '/api/requests/:entryId/:resourceId/proposals'
  const instead = { start: '2027-06-02T09:00:00Z', minutes: 30 }
  const offered = await ask<{ proposalId: string }>(
    'POST',
    route,
    `/api/requests/${request.entryId}/${id}/proposals`,
    instead,
  )
  await get('/api/now')
  await ask('DELETE', '/api/proposals/:proposalId', `/api/proposals/${offered.proposalId}`)
  await large.pool.query(`update reservation set state = 'taken', lapses_at = null where id = $1`, [
    request.id,
  ])
  await ask('POST', '/api/exchanges/look', '/api/exchanges/look', { ...then, placeIds: [id] })
  const taken = await large.pool.query<{ starts: string; id: string }>(
    `select to_char(lower(v.span) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI') as starts, r.id
       from reservation v join resource r on r.id = v.resource_id
      where r.site_id = $1 and r.kind = 'room' and r.name like 'Nunatak %' and v.state <> 'released'
        and v.blocked && tstzrange('2026-12-03', '2026-12-04') limit 40`,
    [site],
  )
  for (const one of taken.rows) {
    const wanted = { starts: one.starts, minutes: 15, zone: 'UTC' }
    const { room } = await ask<{
      room: { placeId: string; moves: { reservationId: string; toId: string }[] } | null
    }>('POST', '/api/exchanges/look', '/api/exchanges/look', { ...wanted, placeIds: [one.id] })
    if (!room) continue
    const asked = await ask<{ exchangeId: string }>('POST', '/api/exchanges', '/api/exchanges', {
      wish: { ...wanted, title: 'Asked for its plan', people: [], guests: [], places: [one.id] },
      placeIds: [one.id],
      moves: room.moves.map((move) => ({ reservationId: move.reservationId, to: move.toId })),
    })
    await get('/api/now')
    const exchange = `/api/exchanges/${asked.exchangeId}`
    await ask('POST', '/api/exchanges/:exchangeId/answer', `${exchange}/answer`, { agree: false })
    await ask('DELETE', '/api/exchanges/:exchangeId', exchange)
    break
  }
  const kept = { kind: 'room', siteId: site, seats: 4 }
  const name = `Asked for its plan ${randomUUID()}`
  const added = await ask<{ id: string }>('POST', '/api/resources', '/api/resources', { ...kept, name })
  const own = `/api/resources/${added.id}`
  await ask('PUT', '/api/resources/:resourceId', own, { ...kept, name, version: 1 })
  await get('/api/resources/kept')
  await get('/api/resources/kept.csv')
  const PNG =
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg=='
  await large.send('POST', `${own}/picture`, Buffer.from(PNG, 'base64'))
  await ask('POST', '/api/resources/:resourceId/picture', `${own}/picture`, {})
  await get('/api/resources/:resourceId/picture', `${own}/picture`)
  await ask('DELETE', '/api/resources/:resourceId/picture', `${own}/picture`)
  const trained = `${own}/trained/${others[0]}`
  await ask('PUT', '/api/resources/:resourceId/trained/:personId', trained, { until: null })
  await get('/api/resources/:resourceId/trained', `${own}/trained`)
  await ask('DELETE', '/api/resources/:resourceId/trained/:personId', trained)
  const list = Buffer.from(`name,kind,site\n${name},lab,Innsbruck\n`)
  const looked = (await (await large.send('POST', '/api/resources/list/look', list)).json()) as {
    plan: string
  }
  await large.send('POST', `/api/resources/list?plan=${looked.plan}`, list)
  await ask('POST', '/api/resources/list/look', '/api/resources/list/look', {})
  await ask('POST', '/api/resources/list', '/api/resources/list?plan=none', {})
  await ask('PUT', '/api/resources/:resourceId/retired', `${own}/retired`, { retired: true })
}

/** Polls and pages for visitors: asked, marked, decided; offered, taken, moved, cancelled. */
const askOutsiders = async ({ ask, large, me, others }: About): Promise<void> => {
  const get = getting(ask)
  const secret = () => `${randomUUID()}${randomUUID()}`.replace(/-/g, '').slice(0, 43)
  const door = secret()
  const settings = {
    needed: null,
    results: 'all',
    names: true,
    oneMark: false,
    proposals: true,
    notices: 'each',
  }
  const asked = await ask<{ pollId: string }>('POST', '/api/polls', '/api/polls', {
    ...settings,
    title: 'Asked for its plan',
    minutes: 30,
    zone: 'Europe/Vienna',
    people: others.slice(0, 20).map((id) => ({ id, required: true })),
    guests: [],
    closes: '2026-12-01T17:00:00Z',
    times: [7, 8, 9].map((day) => ({ start: `2026-12-0${day}T02:00:00Z`, places: [] })),
    holds: true,
    door,
  })
  const poll = `/api/polls/${asked.pollId}`
  const { organized } = await ask<{ organized: { times: { id: string }[]; version: number } }>(
    'GET',
    '/api/polls/:pollId',
    poll,
  )
  const marks = organized.times.map(({ id }) => ({ timeId: id, mark: 'yes' }))
  const own = secret()
  await get('/api/poll-links/:token', `/api/poll-links/${door}`)
  await ask('POST', '/api/poll-links/:token/voters', `/api/poll-links/${door}/voters`, {
    name: 'Rosa',
    address: 'rosa@lodestar.example',
    marks,
    own,
  })
  await ask('PUT', '/api/poll-links/:token/marks', `/api/poll-links/${own}/marks`, { marks })
  await ask('POST', '/api/poll-links/:token/times', `/api/poll-links/${own}/times`, {
    start: '2026-12-10T02:00:00Z',
  })
  const stream = await large.send('GET', `/api/poll-links/${own}/events`)
  await stream.body?.cancel()
  await ask('GET', '/api/poll-links/:token/events', '/api/health')
  await ask('PUT', '/api/polls/:pollId', poll, { version: organized.version, needed: 2 })
  await ask('PUT', '/api/polls/:pollId/marks', `${poll}/marks`, { marks })
  await ask('POST', '/api/polls/:pollId/times', `${poll}/times`, { start: '2026-12-10T03:00:00Z' })
  await ask('POST', '/api/polls/:pollId/nudge', `${poll}/nudge`, {})
  await ask('POST', '/api/polls/:pollId/link', `${poll}/link`, { door: secret() })
  await get('/api/now')
  await ask('POST', '/api/polls/:pollId/withdraw', `${poll}/withdraw`, {})
  await ask('POST', '/api/polls/:pollId/reopen', `${poll}/reopen`, {})
  const sent = await ask<{ entryId: string }>('POST', '/api/polls/:pollId/decide', `${poll}/decide`, {
    timeId: organized.times[0]?.id,
    voters: [],
    places: [],
  })
  await ask('POST', '/api/meetings/:entryId/cancel', `/api/meetings/${sent.entryId}/cancel`, {})

  const [pageId, kindId] = [randomUUID(), randomUUID()]
  const slug = `plan-${pageId.slice(0, 8)}`
  const page = `/api/visit-pages/${pageId}`
  await ask('PUT', '/api/visit-pages/:pageId', page, { slug, name: 'Asked for its plan' })
  const kind = { slug: 'look', title: 'Look', lengths: [30], hosts: [me], mostADay: 5 }
  await ask('PUT', '/api/visit-pages/:pageId/kinds/:kindId', `${page}/kinds/${kindId}`, kind)
  await get('/api/visit-pages')
  await get('/api/v/:page', `/api/v/${slug}`)
  const pageStream = await large.send('GET', `/api/v/${slug}/events`)
  await pageStream.body?.cancel()
  await ask('GET', '/api/v/:page/events', '/api/health')
  const offered = await ask<{ starts: number[] }>('GET', '/api/v/:page/:kind', `/api/v/${slug}/look?days=60`)
  const [start = 0, next = 0] = offered.starts
  const visit = secret()
  const wish = {
    start: new Date(start).toISOString(),
    minutes: 30,
    name: 'Rosa',
    address: `${pageId}@lodestar.example`,
    zone: 'America/Lima',
    guests: [],
    answers: {},
    own: visit,
  }
  await ask('POST', '/api/v/:page/:kind/visits', `/api/v/${slug}/look/visits`, wish)
  await get('/api/visits/:token', `/api/visits/${visit}`)
  await ask('POST', '/api/visits/:token/move', `/api/visits/${visit}/move`, {
    start: new Date(next).toISOString(),
  })
  await ask('POST', '/api/visits/:token/cancel', `/api/visits/${visit}/cancel`, {})
  // Where an address has to be proved, by the link in a letter.
  await ask('PUT', '/api/visit-pages/:pageId/kinds/:kindId', `${page}/kinds/${kindId}`, {
    ...kind,
    proof: true,
  })
  await ask('POST', '/api/v/:page/:kind/visits', `/api/v/${slug}/look/visits`, { ...wish, own: secret() })
  const kept = await large.pool.query<{ id: string }>('select id from visit_wish where kind_id = $1', [
    kindId,
  ])
  const proof = secret()
  await large.pool.query(
    `insert into link (token_hash, purpose, subject_id, expires_at, made_at) values ($1, 'visit', $2, '2026-12-31', '2026-11-23')`,
    [createHash('sha256').update(proof).digest(), kept.rows[0]?.id],
  )
  const proved = secret()
  await ask('POST', '/api/visit-proofs/:token', `/api/visit-proofs/${proof}`, { own: proved })
  await ask('POST', '/api/visits/:token/cancel', `/api/visits/${proved}/cancel`, {})
  await get('/api/visits')
  await ask('POST', '/api/visit-kinds/:kindId/agree', `/api/visit-kinds/${kindId}/agree`, { agree: true })
  await ask('POST', '/api/visit-pages/:pageId/kinds/:kindId/links', `${page}/kinds/${kindId}/links`, {
    secret: secret(),
  })
  await ask('DELETE', '/api/visit-pages/:pageId/kinds/:kindId', `${page}/kinds/${kindId}`)
  await ask('DELETE', '/api/visit-pages/:pageId', page)
}

/** Asks every route once, about something that is there, and leaves nothing behind but what it made itself. */
export const askEverything = async (ask: Ask, large: Large): Promise<void> => {
  const about = await aboutWhom(ask, large)
  await askPeople(about)
  await askEntries(about)
  await askFeeds(about)
  await askOpenings(about)
  await askMeetings(about)
  await askAround(about)
  await askPlaces(about)
  await askOutsiders(about)
  const get = getting(ask)
  await get('/api/health')
  await get('/api/openapi.json')
  const stream = await large.send('GET', '/api/events')
  await stream.body?.cancel()
  await ask('POST', '/api/session', '/api/session', { address: 'nobody@corrie.example', password: 'wrong' })
  await ask('DELETE', '/api/session/others', '/api/session/others')
  await ask('GET', '/api/events', '/api/health')
  await ask('DELETE', '/api/session', '/api/session')
}
