import { addItem, agendaText, readAgenda } from '@marmot/core/agenda'
import type { Told } from '@marmot/core/letters'
import { whereAreThey, whereInWords } from '@marmot/core/reservations'
import {
  dayOf,
  dayText,
  type Instant,
  toWall,
  wallOf,
  wallText,
  weekStart,
  zoneTable,
} from '@marmot/core/time'
import { yearsAt } from '@marmot/server/holidays/keeping.ts'
import { publicHolidays } from '@marmot/server/holidays/public.ts'
import { keepHolidays } from '@marmot/server/holidays/store.ts'
import { hash } from '@node-rs/argon2'
import type pg from 'pg'
import * as Y from 'yjs'
import { type Demo, type DemoEntry, generate } from './generate.ts'
import { seeded } from './random.ts'
import { CLOSED_DAYS, OUT_OF_DOORS, TODOS } from './scenario.ts'

type Column = { name: string; type: string }

const columns = (text: string): Column[] =>
  text.split(',').map((part) => {
    const [name = '', type = 'text'] = part.trim().split(' ')
    return { name, type }
  })

/** Inserts rows in one statement, a column an array: thousands of rows in milliseconds. */
const insertAll = async (
  sql: pg.ClientBase,
  table: string,
  shape: string,
  rows: readonly unknown[][],
): Promise<void> => {
  if (rows.length === 0) return
  const parts = columns(shape)
  const arrays = parts.map((_, i) => rows.map((row) => row[i] ?? null))
  const values = parts.map(({ type }, i) => `$${i + 1}::${type}[]`).join(', ')
  await sql.query(
    `insert into ${table} (${parts.map((part) => part.name).join(', ')}) select * from unnest(${values})`,
    arrays,
  )
}

const iso = (at: Instant) => new Date(at).toISOString()
const range = (span: { start: Instant; end: Instant }) => `[${iso(span.start)},${iso(span.end)})`

const loadPeople = async (sql: pg.ClientBase, demo: Demo, password: string): Promise<void> => {
  const passwordHash = await hash(password)
  const siteId = (name: string) => demo.sites.find((site) => site.name === name)?.id
  const teamId = (name: string) => demo.teams.find((team) => team.name === name)?.id
  await insertAll(
    sql,
    'site',
    'id uuid, name, zone, region, latitude float8, longitude float8',
    demo.sites.map((site) => [site.id, site.name, site.zone, site.region, site.latitude, site.longitude]),
  )
  await insertAll(
    sql,
    'team',
    'id uuid, name',
    demo.teams.map((team) => [team.id, team.name]),
  )
  await insertAll(
    sql,
    'person',
    'id uuid, name, address, role, site_id uuid, zone, password_hash, demo_order smallint',
    demo.people.map((one) => [
      one.id,
      one.name,
      one.address,
      one.role,
      siteId(one.site),
      one.zone,
      passwordHash,
      one.leading ?? null,
    ]),
  )
  await insertAll(
    sql,
    'team_member',
    'team_id uuid, person_id uuid',
    demo.people.map((one) => [teamId(one.team), one.id]),
  )
  await insertAll(
    sql,
    'working_hours',
    'person_id uuid, weekday smallint, from_minute smallint, to_minute smallint',
    demo.people.flatMap((one) => {
      const pattern = demo.patterns[one.pattern]
      return pattern.days.flatMap((day) => pattern.spans.map(([from, to]) => [one.id, day, from, to]))
    }),
  )
  const id = (name: string) => demo.people.find((one) => one.name === name)?.id
  const shared: unknown[][] = demo.people.flatMap((one): unknown[][] => {
    if (one.shares === 'headlines' || one.shares === 'nothing')
      return [[one.id, null, null, one.shares, 'look']]
    return one.shares === 'team' ? [[one.id, teamId(one.team), null, 'everything', 'look']] : []
  })
  shared.push([id('Henrike Aasland'), null, id('Ilse Brandacher'), 'everything', 'stand-in'])
  await insertAll(sql, 'sharing', 'owner_id uuid, team_id uuid, person_id uuid, sees, does', shared)
}

const loadPlaces = async (sql: pg.ClientBase, demo: Demo): Promise<void> => {
  const siteId = (name: string) => demo.sites.find((site) => site.name === name)?.id
  const steward = (name: string | undefined) => demo.people.find((one) => one.name === name)?.id ?? null
  for (const place of demo.places) {
    await sql.query(
      `insert into resource (id, name, kind, site_id, floor, seats, features, about, steward_id, turnaround_minutes,
         trained_only, asks_approval)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
      [
        place.id,
        place.name,
        place.kind,
        siteId(place.site),
        place.floor,
        place.seats,
        JSON.stringify(place.features),
        place.about,
        steward(place.steward),
        place.turnaround ?? 0,
        place.trained ?? false,
        place.approval ?? false,
      ],
    )
  }
  await insertAll(
    sql,
    'opening_hours',
    'resource_id uuid, weekday smallint, from_minute smallint, to_minute smallint',
    demo.places.flatMap((place) => {
      const [from, to] = place.hours ?? [0, 1440]
      return (place.weekdays ?? [1, 2, 3, 4, 5, 6, 7]).map((weekday) => [place.id, weekday, from, to])
    }),
  )
  await insertAll(
    sql,
    'closure',
    'resource_id uuid, span tstzrange, reason',
    demo.closures.map((shut) => [shut.resourceId, range(shut), shut.reason]),
  )
  await insertAll(
    sql,
    'trained_person',
    'resource_id uuid, person_id uuid',
    demo.trained.map((one) => [one.resourceId, one.personId]),
  )
}

const loadEntries = async (sql: pg.ClientBase, demo: Demo, now: Instant): Promise<void> => {
  await insertAll(
    sql,
    'entry',
    'id uuid, uid, owner_id uuid, zone, starts timestamp, minutes integer, all_day boolean, rule, title, place, note, shows, private boolean, purpose, lapses_at timestamptz, created_at timestamptz',
    demo.entries.map((entry) => [
      entry.id,
      `${entry.id}@marmot.corrie.example`,
      entry.ownerId,
      entry.zone,
      wallText(entry.starts),
      entry.minutes,
      entry.allDay,
      entry.rule,
      entry.title,
      entry.place,
      entry.note,
      entry.shows,
      entry.private,
      entry.purpose,
      entry.lapsesAt === null ? null : iso(entry.lapsesAt),
      iso(now),
    ]),
  )
  const participants = demo.entries.flatMap((entry) =>
    entry.participants.map((one) => ({ ...one, entryId: entry.id })),
  )
  await insertAll(
    sql,
    'participant',
    'id uuid, entry_id uuid, person_id uuid, guest_address, guest_name, required boolean, organizer boolean, answer',
    participants.map((one) => [
      one.id,
      one.entryId,
      one.personId,
      one.guest?.address ?? null,
      one.guest?.name ?? '',
      one.required,
      one.organizer,
      one.answer,
    ]),
  )
  await insertAll(
    sql,
    'occurrence',
    'id uuid, entry_id uuid, recurrence timestamp, span tstzrange',
    demo.entries.flatMap((entry) =>
      entry.occurrences.map((date) => [date.id, entry.id, wallText(date.recurrence), range(date)]),
    ),
  )
  await sql.query(
    `insert into attendance (occurrence_id, participant_id, person_id, span, answer, shows)
     select o.id, p.id, p.person_id, o.span, p.answer, e.shows
       from occurrence o join entry e on e.id = o.entry_id join participant p on p.entry_id = o.entry_id`,
  )
  await loadLetters(sql, demo, now)
  await loadTalk(sql, demo)
}

/** What is to be talked about, what was said beforehand, and other times that are proposed: all of an entry's first date. */
const loadTalk = async (sql: pg.ClientBase, demo: Demo): Promise<void> => {
  const dates = demo.entries.flatMap((entry) => {
    const [date] = entry.occurrences
    return date ? [{ entry, date }] : []
  })
  await insertAll(
    sql,
    'agenda',
    'occurrence_id uuid, document bytea, text',
    dates
      .filter(({ entry }) => entry.agenda.length > 0)
      .map(({ entry, date }) => {
        const document = new Y.Doc()
        for (const [i, item] of entry.agenda.entries()) addItem(document, `first-${i + 1}`, item)
        return [date.id, Buffer.from(Y.encodeStateAsUpdate(document)), agendaText(readAgenda(document))]
      }),
  )
  await insertAll(
    sql,
    'message',
    'occurrence_id uuid, person_id uuid, participant_id uuid, text, at timestamptz',
    dates.flatMap(({ entry, date }) =>
      entry.said.map((one) => [
        date.id,
        one.personId,
        entry.participants.find((other) => other.personId === one.personId)?.id,
        one.text,
        iso(one.at),
      ]),
    ),
  )
  await insertAll(
    sql,
    'proposal',
    'participant_id uuid, occurrence_id uuid, span tstzrange, instead tstzrange, message, made_at timestamptz, stamp timestamptz',
    dates.flatMap(({ entry: { proposed }, date }) =>
      proposed
        ? [
            [
              proposed.participantId,
              date.id,
              range(proposed),
              range(date),
              proposed.message,
              iso(proposed.at),
              iso(proposed.at),
            ],
          ]
        : [],
    ),
  )
}

/** What somebody was told of a meeting of the demo: what is true of it. */
const toldOf = (demo: Demo) => {
  const reserved = new Map<string, { name: string; site: string }[]>()
  for (const { occurrenceId, resourceId } of demo.reservations) {
    const place = demo.places.find((one) => one.id === resourceId)
    if (!place) continue
    reserved.set(occurrenceId, [
      ...(reserved.get(occurrenceId) ?? []),
      { name: place.name, site: place.site },
    ])
  }
  return (entry: DemoEntry): Omit<Told, 'required'> => {
    const { usual, otherwise } = whereAreThey(
      new Map(
        entry.occurrences.map((date) => [
          wallText(date.recurrence),
          whereInWords(reserved.get(date.id) ?? [], entry.place),
        ]),
      ),
    )
    return {
      title: entry.title,
      note: entry.note,
      place: usual ?? entry.place,
      zone: entry.zone,
      starts: wallText(entry.starts),
      minutes: entry.minutes,
      rule: entry.rule,
      added: [],
      excepted: entry.excepted.map(wallText),
      changes: [...otherwise].map(([recurrence, place]) => ({
        recurrence,
        starts: null,
        minutes: null,
        title: null,
        note: null,
        place,
      })),
      cancelled: [],
      rsvp: true,
      conference: null,
    }
  }
}

const loadLetters = async (sql: pg.ClientBase, demo: Demo, now: Instant): Promise<void> => {
  const told = toldOf(demo)
  const random = seeded(7)
  const meetings = demo.entries
    .map((entry) => ({ entry, asked: entry.participants.filter((one) => !one.organizer), id: random.uuid() }))
    .filter(({ asked }) => asked.length > 0)
  await insertAll(
    sql,
    'telling',
    'id uuid, entry_id uuid, told jsonb',
    meetings.map(({ id, entry }) => [id, entry.id, JSON.stringify(told(entry))]),
  )
  await insertAll(
    sql,
    'letter',
    'entry_id uuid, person_id uuid, guest_address, guest_name, required boolean, number integer, method, sequence integer, version integer, about_id uuid, told_id uuid, state, written_at timestamptz, tried_at timestamptz, sent_at timestamptz',
    meetings.flatMap(({ id, entry, asked }) =>
      asked.map((one) => {
        const reader = [one.personId, one.guest?.address ?? null, one.guest?.name ?? '', one.required]
        return [entry.id, ...reader, 1, 'REQUEST', 0, 1, id, id, 'sent', iso(now), iso(now), iso(now)]
      }),
    ),
  )
}

/** What the leading people keep for themselves: categories on what they do, layers beside their time, a feed they read. */
const loadOwn = async (
  sql: pg.ClientBase,
  demo: Demo,
  now: Instant,
  partnerUrl: string | null,
): Promise<void> => {
  const ilse = demo.people.find((one) => one.name === 'Ilse Brandacher')
  const beside = ['Henrike Aasland', 'Tashi Lhendup'].flatMap(
    (name) => demo.people.find((one) => one.name === name)?.id ?? [],
  )
  if (!ilse) return
  await insertAll(
    sql,
    'category',
    'person_id uuid, name, tone smallint',
    demo.categories.map((one) => [ilse.id, one.name, one.tone]),
  )
  for (const { name, titles } of demo.categories)
    await sql.query(
      `update participant p set category_id = c.id from category c, entry e
        where c.person_id = $1 and c.name = $2 and p.person_id = $1 and e.id = p.entry_id and e.title = any($3)`,
      [ilse.id, name, titles],
    )
  await sql.query(
    "insert into layer_set (person_id, name, layers, used_at) values ($1, 'Directors and stations', $2, $3)",
    [
      ilse.id,
      JSON.stringify(beside.map((id, tone) => ({ kind: 'person', id, tone, shown: false }))),
      iso(now),
    ],
  )
  if (partnerUrl)
    await sql.query(
      `insert into feed (person_id, name, address, every_minutes, next_at) values
         ($1, 'Noor Haddad, Lodestar', $2, 60, $3)`,
      [ilse.id, `${partnerUrl}/free-busy.ics`, iso(now)],
    )
}

/** What people have to do, by when. */
const loadTodos = async (sql: pg.ClientBase, demo: Demo, now: Instant): Promise<void> => {
  const someone = (name: string | undefined) => demo.people.find((one) => one.name === name)
  const random = seeded(11)
  await insertAll(
    sql,
    'todo',
    'id uuid, uid, owner_id uuid, given_to uuid, title, due timestamp, due_all_day boolean, zone, minutes integer, priority smallint, percent smallint, created_at timestamptz, changed_at timestamptz',
    TODOS.flatMap(({ owner, to, title, days, minute, minutes, urgent, percent }) => {
      const whose = someone(owner)
      if (!whose) return []
      const id = random.uuid()
      const today = dayOf(toWall(zoneTable(whose.zone), now))
      const due = days === null ? null : wallText(wallOf(today + days, minute ?? 0))
      const when = [due, minute === undefined, whose.zone, minutes ?? null]
      return [
        [
          id,
          id,
          whose.id,
          someone(to)?.id ?? null,
          title,
          ...when,
          urgent ? 1 : 0,
          percent ?? 0,
          iso(now),
          iso(now),
        ],
      ]
    }),
  )
}

/** Fills an empty database with the demo, relative to `now`, in one transaction. */
export const loadDemo = async (
  pool: pg.Pool,
  now: Instant,
  password: string,
  partnerUrl: string | null = null,
): Promise<Demo> => {
  const demo = generate(now)
  const sql = await pool.connect()
  try {
    await sql.query('begin')
    await loadPeople(sql, demo, password)
    await loadPlaces(sql, demo)
    await loadEntries(sql, demo, now)
    await insertAll(
      sql,
      'reservation',
      'resource_id uuid, occurrence_id uuid, person_id uuid, span tstzrange, state, lapses_at timestamptz',
      demo.reservations.map((one) => [
        one.resourceId,
        one.occurrenceId,
        one.personId,
        range(one),
        one.state,
        one.state === 'held' ? iso(one.start) : null,
      ]),
    )
    await loadOwn(sql, demo, now, partnerUrl)
    await loadTodos(sql, demo, now)
    await loadDaysOff(sql, demo, now)
    await sql.query(
      'update entry e set outdoors_site_id = p.site_id from person p where p.id = e.owner_id and e.title = any($1)',
      [OUT_OF_DOORS],
    )
    await sql.query("insert into setting (name, value) values ('demo', $1)", [
      JSON.stringify({ madeOn: dayText(Math.floor(now / 86_400_000)) }),
    ])
    await sql.query('commit')
  } catch (error) {
    await sql.query('rollback')
    throw error
  } finally {
    sql.release()
  }
  await pool.query('analyze')
  return demo
}

/** Days off of the sites: public holidays as Marmot looks them up itself, and a few of their own. */
const loadDaysOff = async (sql: pg.ClientBase, demo: Demo, now: Instant): Promise<void> => {
  const { until, ...years } = yearsAt(now)
  for (const site of demo.sites)
    if (site.region)
      await keepHolidays(sql, site, publicHolidays({ region: site.region, ...years }) ?? [], until)
  const monday = weekStart(dayOf(now))
  await insertAll(
    sql,
    'site_day',
    'site_id uuid, days daterange, name, kind, shut boolean',
    CLOSED_DAYS.map((one) => [
      demo.sites.find((site) => site.name === one.site)?.id,
      `[${dayText(monday + one.after)},${dayText(monday + one.after + one.days)})`,
      one.name,
      'closed',
      one.shut,
    ]),
  )
}

/** True when nobody is in the directory yet. */
export const isEmpty = async (pool: pg.Pool): Promise<boolean> =>
  (await pool.query('select 1 from person limit 1')).rowCount === 0
