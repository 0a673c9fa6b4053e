import { randomUUID } from 'node:crypto'
import { detailFor, type Level, SEES } from '@marmot/core/sharing'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import {
  type Answer,
  aMeeting,
  attempt,
  type Client,
  startTestMarmot,
  type TestMarmot,
  until,
} from '../testing/marmot.ts'
import { type About, type Privacy, RESERVED } from '../testing/privacy.ts'

let marmot: TestMarmot
let owner: Client
let viewer: Client
beforeAll(async () => {
  marmot = await startTestMarmot()
  owner = await marmot.as('Tashi Lhendup')
  viewer = await marmot.as('Matteo Ruprechter')
})
afterAll(() => marmot.stop())

/** Words that would be noticed if they leaked: of the headline, and of what only whoever sees everything may see. */
const HEADLINE = 'Xylographic'
const WITHIN = 'Quoll'

const LEVELS: readonly Level[] = [
  ...SEES.map((sees) => ({ sees, does: 'look' as const, seesPrivate: false })),
  { sees: 'everything', does: 'change', seesPrivate: false },
  { sees: 'everything', does: 'stand-in', seesPrivate: false },
  { sees: 'everything', does: 'stand-in', seesPrivate: true },
]

/** One entry of the owner's with everything an entry can have, on a day of its own. */
interface Subject {
  readonly entryId: string
  readonly attachmentId: string
  readonly meetingId: string
  readonly reservedId: string
  readonly placeId: string
  readonly pollId: string
  readonly todoId: string
  readonly contactId: string
  readonly changeId: string
  readonly messageId: string
  readonly meetingFileId: string
  readonly recurrence: string
  readonly private: boolean
}

/** The words of a date that is private by itself, in a series that is not. */
const HIDDEN = 'Sphinxlike'
const HIDDEN_DATE = '2026-12-05T14:00'

/** Makes one date of the subject's series private, with words of its own. */
const hideDate = async (entryId: string): Promise<void> => {
  const hidden = await owner.send('PUT', `/api/entries/${entryId}`, {
    title: `${HIDDEN} talk`,
    place: `${HIDDEN} place`,
    note: `<p>${HIDDEN} note</p>`,
    starts: HIDDEN_DATE,
    minutes: 60,
    zone: 'Europe/Vienna',
    private: true,
    recurrence: HIDDEN_DATE,
    version: 2,
  })
  if (hidden.status !== 200) throw new Error(hidden.text)
}

const make = async (isPrivate: boolean): Promise<Subject> => {
  await forgetReserved()
  const mark = isPrivate ? 'P' : 'O'
  const starts = '2026-12-03T14:00'
  const made = await owner.send<{ entryId: string; changeId: string }>('POST', '/api/entries', {
    title: `${HEADLINE}${mark} plan`,
    place: `${HEADLINE}${mark} place`,
    note: `<p>${WITHIN}${mark} note</p>`,
    starts,
    minutes: 60,
    zone: 'Europe/Vienna',
    private: isPrivate,
    repetition: { rule: 'FREQ=DAILY;COUNT=3', added: [], excepted: [] },
  })
  const { entryId, changeId } = made.body
  await owner.send('PUT', `/api/entries/${entryId}`, {
    title: `${HEADLINE}${mark} renamed`,
    starts: '2026-12-04T15:00',
    minutes: 60,
    zone: 'Europe/Vienna',
    private: isPrivate,
    recurrence: '2026-12-04T14:00',
    version: 1,
  })
  const file = await owner.upload<{ id: string }>(
    `/api/entries/${entryId}/attachments?name=${WITHIN}${mark}.txt`,
    Buffer.from(`${WITHIN}${mark} file`),
  )
  const meeting = await owner.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      title: `${HEADLINE}${mark} meeting`,
      note: `${WITHIN}${mark} words`,
      agenda: [{ title: `${WITHIN}${mark} point` }],
      starts: '2026-12-05T10:00',
      places: [],
    }),
  )
  const placeId = await marmot.placeId('Serac')
  const reserved = await owner.send<{ entryId: string }>(
    'POST',
    '/api/meetings',
    aMeeting({
      ...RESERVED,
      title: `${HEADLINE}${mark} reserved`,
      purpose: `${WITHIN}${mark} purpose`,
      contact: { name: `${WITHIN}${mark} name`, address: '', telephone: `${WITHIN}${mark} telephone` },
      shows: 'listed',
      private: isPrivate,
      places: [placeId],
    }),
  )
  if (reserved.status !== 200) throw new Error(reserved.text)
  const said = await owner.send<{ messageId: string }>(
    'POST',
    `/api/meetings/${meeting.body.entryId}/conversation`,
    { text: `${WITHIN}${mark} said` },
  )
  const added = await owner.upload<{ id: string }>(
    `/api/meetings/${meeting.body.entryId}/files?name=${WITHIN}${mark}-notes.txt`,
    Buffer.from(`${WITHIN}${mark} file`),
  )
  await marmot.pool.query(
    `insert into attended (seat, occurrence_id, name, via, joined_at)
     select gen_random_uuid(), o.id, $2, 'link', now() from occurrence o where o.entry_id = $1`,
    [meeting.body.entryId, `${WITHIN}${mark} visitor`],
  )
  if (isPrivate)
    await marmot.pool.query('update entry set private = true where id = $1', [meeting.body.entryId])
  const todo = await owner.send<{ id: string }>('POST', '/api/todos', {
    title: `${WITHIN}${mark} to do`,
    note: `${WITHIN}${mark} why`,
    due: starts,
    dueAllDay: false,
    zone: 'Europe/Vienna',
  })
  if (todo.status !== 200) throw new Error(todo.text)
  const contact = await owner.send<{ id: string }>('POST', '/api/contacts', {
    name: `${WITHIN}${mark} contact`,
    note: `${WITHIN}${mark} what they like`,
    telephone: `${WITHIN}${mark}`,
  })
  if (contact.status !== 200) throw new Error(contact.text)
  // A poll is never private: whoever stands in for its organizer acts in it.
  const poll = isPrivate ? null : await askPoll(`${WITHIN}${mark} asked`)
  return {
    pollId: poll ?? randomUUID(),
    todoId: todo.body.id,
    contactId: contact.body.id,
    entryId,
    changeId,
    messageId: said.body.messageId,
    meetingFileId: added.body.id,
    attachmentId: file.body.id,
    meetingId: meeting.body.entryId,
    reservedId: reserved.body.entryId,
    placeId,
    recurrence: starts,
    private: isPrivate,
  }
}

/** Has the owner ask somebody about two times; gives the poll. */
const askPoll = async (title: string): Promise<string> => {
  const asked = await owner.send<{ pollId: string }>('POST', '/api/polls', {
    title,
    note: `${WITHIN} why`,
    minutes: 60,
    zone: 'Europe/Vienna',
    people: [],
    guests: [{ address: 'rosa@lodestar.example', name: `${WITHIN} guest`, required: true }],
    closes: '2026-12-01T00:00:00Z',
    times: [8, 9].map((hour) => ({ start: `2026-12-0${hour}T08:00:00Z`, places: [] })),
    needed: null,
    results: 'all',
    names: true,
    oneMark: false,
    proposals: true,
    notices: 'none',
    holds: false,
    door: null,
  })
  if (asked.status !== 200) throw new Error(asked.text)
  return asked.body.pollId
}

/** Reservations of subjects of before, whose place is wanted again. */
const forgetReserved = () =>
  marmot.pool.query(
    `delete from reservation r using occurrence o, entry e
      where o.id = r.occurrence_id and e.id = o.entry_id and e.title like $1`,
    [`${HEADLINE}%`],
  )

/** What belongs to a meeting: its answers, its agenda, what is said about it. */
const AT_MEETINGS = [
  'GET /api/meetings/{entryId}',
  'GET /api/meetings/{entryId}/agenda',
  'GET /api/meetings/{entryId}/conversation',
  'GET /api/meetings/{entryId}/record',
]

const SPAN = { from: '2026-12-01T00:00:00Z', to: '2026-12-31T00:00:00Z' }

/** What every domain says of its routes. */
const said = Object.entries(
  Object.assign(
    {},
    ...Object.values(import.meta.glob<Privacy>('../*/privacy.ts', { eager: true, import: 'privacy' })),
  ) as Privacy,
)

/** Asks every route that could show something, and gives the answers of each. */
const askAll = async (subject: Subject): Promise<{ route: string; answers: readonly Answer[] }[]> => {
  const about: About = {
    ...subject,
    hiddenDate: HIDDEN_DATE,
    ownerId: owner.person.id,
    viewerId: viewer.person.id,
    nobody: randomUUID(),
    headline: HEADLINE,
    range: new URLSearchParams(SPAN).toString(),
    span: SPAN,
  }
  const asked = []
  for (const [route, questions] of said) {
    if (typeof questions === 'string') continue
    const method = z.enum(['GET', 'POST', 'PUT', 'DELETE']).parse(route.split(' ')[0])
    const answers = await Promise.all(
      questions(about).map(({ path, body, bytes }) =>
        method === 'GET'
          ? viewer.get(path)
          : bytes
            ? viewer.upload(path, bytes)
            : viewer.send(method, path, body),
      ),
    )
    asked.push({ route, answers })
  }
  return asked
}

const give = (level: Level) =>
  owner.send('PUT', '/api/sharing', { to: 'person', id: viewer.person.id, ...level })

describe('what of an entry leaves the server', () => {
  it('is asked of every route there is', async () => {
    const description = await marmot.anyone<{ paths: Record<string, Record<string, unknown>> }>(
      'GET',
      '/api/openapi.json',
    )
    const all = Object.entries(description.body.paths).flatMap(([path, methods]) =>
      Object.keys(methods).map((method) => `${method.toUpperCase()} ${path}`),
    )
    expect(all.sort()).toEqual(said.map(([route]) => route).sort())
  })

  it.each(LEVELS)('at $sees, $does, private entries $seesPrivate, by every route', async (level) => {
    await forgetReserved()
    await marmot.pool.query('update entry set deleted_at = now() where title like $1', [`${HEADLINE}%`])
    await marmot.pool.query(
      'delete from occurrence where entry_id in (select id from entry where deleted_at is not null)',
    )
    await marmot.pool.query('delete from change where owner_id = $1', [owner.person.id])
    await marmot.pool.query('delete from poll where owner_id = $1', [owner.person.id])
    await give(level)
    for (const isPrivate of [false, true]) {
      const subject = await make(isPrivate)
      const mark = isPrivate ? 'P' : 'O'
      const detail = detailFor(subject, { level, owns: false, participates: false })
      const shown = { headline: new Set<string>(), within: new Set<string>() }
      for (const { route, answers } of await askAll(subject))
        for (const answer of answers) {
          if (answer.text.includes(`${HEADLINE}${mark}`)) shown.headline.add(route)
          if (answer.text.includes(`${WITHIN}${mark}`)) shown.within.add(route)
        }
      const mayHeadline = detail === 'headlines' || detail === 'everything'
      if (!mayHeadline) expect([...shown.headline]).toEqual([])
      else expect([...shown.headline]).toContain('POST /api/availability')
      if (detail !== 'everything') expect([...shown.within]).toEqual([])
      else
        expect([...shown.within]).toEqual(
          expect.arrayContaining([
            'GET /api/entries/{entryId}',
            'GET /api/attachments/{attachmentId}',
            'GET /api/export',
          ]),
        )
      // Nobody but those who take part, and whoever stands in for its organizer, sees what belongs to a meeting.
      const standsIn = detail === 'everything' && level.does === 'stand-in'
      for (const meeting of AT_MEETINGS)
        if (standsIn) expect([...shown.within]).toContain(meeting)
        else expect([...shown.headline, ...shown.within]).not.toContain(meeting)
      const poll = 'GET /api/polls/{pollId}'
      if (standsIn && !isPrivate) expect([...shown.within]).toContain(poll)
      else expect([...shown.headline, ...shown.within]).not.toContain(poll)
      expect((await viewer.get(`/api/attachments/${subject.meetingFileId}`)).status).toBe(
        standsIn ? 200 : 404,
      )
      const opened = await attempt(marmot.url, `/api/meetings/${subject.meetingId}/agenda/live`, {
        cookie: viewer.cookie,
      })
      expect(opened).toBe(standsIn ? 101 : 404)
      // The entry stands as it was: none of the writes came through.
      const whole = await owner.get<{ title: string; version: number }>(
        `/api/entries/${subject.entryId}?recurrence=${subject.recurrence}`,
      )
      expect(whole.body).toMatchObject({ title: `${HEADLINE}${mark} plan`, version: 2 })
    }
  })

  it.each(LEVELS)(
    'of one date that is private by itself, at $sees, $does, private entries $seesPrivate',
    async (level) => {
      await forgetReserved()
      await marmot.pool.query('delete from entry where title like $1 or title like $2', [
        `${HEADLINE}%`,
        `${HIDDEN}%`,
      ])
      await marmot.pool.query('delete from change where owner_id = $1', [owner.person.id])
      await give(level)
      const subject = await make(false)
      await hideDate(subject.entryId)
      const detail = detailFor({ private: true }, { level, owns: false, participates: false })
      const shown = new Set<string>()
      for (const { route, answers } of await askAll(subject))
        for (const answer of answers) if (answer.text.includes(HIDDEN)) shown.add(route)
      if (detail === 'everything') expect([...shown]).toContain('GET /api/entries/{entryId}')
      else expect([...shown]).toEqual([])
      // Changing and deleting it is for those who may see it, also as part of the series.
      const may = detail === 'everything' && level.does !== 'look'
      const statuses = await Promise.all(
        (['this', 'all'] as const).map(async (scope) => {
          const query = `recurrence=${HIDDEN_DATE}&version=999&scope=${scope}`
          return (await viewer.send('DELETE', `/api/entries/${subject.entryId}?${query}`)).status
        }),
      )
      // 409 is the stale version, which only whoever may change it comes as far as.
      if (may) expect(statuses).toEqual([409, 409])
      else expect(statuses.every((status) => status === 403 || status === 404)).toBe(true)
    },
  )

  it('of what somebody did for another is told as far as they may see it now, and cannot be undone after', async () => {
    await marmot.pool.query('delete from change where owner_id = $1', [owner.person.id])
    await give({ sees: 'everything', does: 'stand-in', seesPrivate: false })
    const made = await viewer.send<{ changeId: string; entryId: string }>('POST', '/api/entries', {
      title: `${HEADLINE} for them`,
      starts: '2026-12-08T14:00',
      minutes: 60,
      zone: 'Europe/Vienna',
      of: owner.person.id,
    })
    expect((await viewer.get('/api/changes')).text).toContain(HEADLINE)
    await give({ sees: 'busy', does: 'look', seesPrivate: false })
    expect((await viewer.get('/api/changes')).text).not.toContain(HEADLINE)
    expect((await viewer.get('/api/now')).text).not.toContain(HEADLINE)
    expect((await viewer.send('POST', `/api/changes/${made.body.changeId}/undo`)).status).toBe(404)
    expect((await owner.get(`/api/entries/${made.body.entryId}`)).status).toBe(200)
    expect((await owner.send('POST', `/api/changes/${made.body.changeId}/undo`)).status).toBe(200)
  })

  it('in live events is nothing: who shares nothing is not even known to be active', async () => {
    const stream = await fetch(`${marmot.url}/api/events`, { headers: { cookie: viewer.cookie } })
    const reader = stream.body?.pipeThrough(new TextDecoderStream()).getReader()
    let heard = ''
    const listening = (async () => {
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read())
        heard += part.value
    })().catch(() => undefined)
    const add = (from: typeof owner, title: string) =>
      from.send('POST', '/api/entries', {
        title,
        starts: '2026-12-09T14:00',
        minutes: 60,
        zone: 'Europe/Vienna',
      })
    const hear = (id: string, times: number) =>
      until(
        () => heard.split(id).length - 1,
        (seen) => seen >= times,
      )
    await give({ sees: 'nothing', does: 'look', seesPrivate: false })
    await add(owner, `${HEADLINE} unseen`)
    // Events come in order: once the viewer's own is heard, whatever the owner's was told of it is there too.
    await add(viewer, 'A marker')
    await hear(viewer.person.id, 1)
    expect(heard).not.toContain(owner.person.id)
    await give({ sees: 'busy', does: 'look', seesPrivate: false })
    await add(owner, `${HEADLINE} seen as busy`)
    // Once of what is shared, once of the entry.
    await hear(owner.person.id, 2)
    expect(heard).not.toContain(HEADLINE)
    await reader?.cancel()
    await listening
  })

  it('in the answers kept for repeated requests is no title, no secret and no key, and nobody gets another’s', async () => {
    const TITLE = 'Quillwort count'
    const key = randomUUID()
    const asked: [string, Record<string, unknown>][] = [
      ['/api/entries', { title: TITLE, starts: '2026-12-10T14:00', minutes: 60, zone: 'Europe/Vienna' }],
      ['/api/meetings', aMeeting({ title: TITLE, starts: '2026-12-10T16:00' })],
      ['/api/feeds/published', { kind: 'calendar', sees: 'everything', months: 2 }],
    ]
    const idsOf = (text: string) => text.match(/[0-9a-f]{8}-[0-9a-f-]{27}|\/published\/[\w-]+/g) ?? []
    for (const [i, [path, body]] of asked.entries()) {
      const repeat = (who: Client) => who.send('POST', path, body, { 'idempotency-key': `${key}-${i}` })
      const first = await repeat(owner)
      expect(first.status).toBe(200)
      expect((await repeat(owner)).text).toBe(first.text)
      const other = await repeat(viewer)
      expect(idsOf(other.text).filter((id) => first.text.includes(id))).toEqual([])
      const kept = await marmot.pool.query<{ row: string }>('select r::text as row from repeated_request r')
      const all = kept.rows.map(({ row }) => row).join()
      expect(all).not.toContain(TITLE)
      expect(all).not.toContain(key)
      const secret = /published\/([\w-]+)/.exec(first.text)?.[1]
      if (path.endsWith('published')) expect(secret).toMatch(/.{40,}/)
      if (secret) expect(all).not.toContain(secret)
    }
  })

  it('nothing at all is seen of somebody who gave a team or everybody less than usual', async () => {
    await marmot.pool.query('delete from sharing where owner_id = $1', [owner.person.id])
    await owner.send('PUT', '/api/sharing', {
      to: 'organisation',
      id: null,
      sees: 'nothing',
      does: 'look',
      seesPrivate: false,
    })
    const subject = await make(false)
    for (const { answers } of await askAll(subject))
      for (const answer of answers) {
        expect(answer.text).not.toContain(HEADLINE)
        expect(answer.text).not.toContain(WITHIN)
      }
  })

  it.each(['busy', 'headlines', 'everything'] as const)(
    'at an address that publishes %s, of any kind',
    async (sees) => {
      await make(false)
      await make(true)
      for (const kind of ['calendar', 'freebusy', 'page'] as const) {
        const made = await owner.send<{ address: string }>('POST', '/api/feeds/published', {
          kind,
          sees,
          months: 2,
        })
        const read = await marmot.anyone('GET', new URL(made.body.address).pathname)
        expect([kind, read.status]).toEqual([kind, 200])
        expect(read.text).not.toContain(`${HEADLINE}P`)
        expect(read.text).not.toContain(`${WITHIN}P`)
        // The page shows a week, in which these do not lie.
        const headline = kind === 'calendar' && sees !== 'busy'
        expect([kind, read.text.includes(`${HEADLINE}O`)]).toEqual([kind, headline])
        expect([kind, read.text.includes(`${WITHIN}O`)]).toEqual([
          kind,
          kind === 'calendar' && sees === 'everything',
        ])
      }
    },
  )
})
