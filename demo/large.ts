import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { addItem, agendaText, readAgenda } from '@marmot/core/agenda'
import { occurrencesWithin } from '@marmot/core/recurrence'
import {
  DAY,
  type Day,
  dayOf,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  wallOf,
  wallText,
  weekdayOf,
  weekStart,
  zoneTable,
} from '@marmot/core/time'
import type pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import * as Y from 'yjs'
import { addressOf, type Demo } from './generate.ts'
import { seeded } from './random.ts'
import { PATTERNS, SITES, WORK } from './scenario.ts'

/** How large an organisation is made. */
export interface Size {
  readonly people: number
  readonly resources: number
  readonly entries: number
}

export const LARGE: Size = { people: 5000, resources: 600, entries: 1_500_000 }

/** What the person has whose year is measured: single entries, and series of a date a week. */
const YEAR_ENTRIES = 2000
const YEAR_SERIES = 40
const WEEKS_BACK = 8
const WEEKS_AHEAD = 16

/** Indexes that are quicker made at the end than kept up row by row. */
const INDEXES = [
  { name: 'attendance_lane', on: 'attendance using gist (person_id, span)' },
  { name: 'attendance_start', on: 'attendance (lower(span))' },
  { name: 'attendance_participant', on: 'attendance (participant_id)' },
  { name: 'participant_person', on: 'participant (person_id)' },
  { name: 'entry_owner', on: 'entry (owner_id)' },
  { name: 'entry_words', on: 'entry using gin (words)' },
]

const GIVEN = [
  'Ada',
  'Bao',
  'Chima',
  'Dorji',
  'Elif',
  'Farid',
  'Greta',
  'Hemi',
  'Ines',
  'Jomo',
  'Karma',
  'Lupe',
  'Mara',
  'Nilo',
  'Oddny',
  'Pema',
  'Rosa',
  'Sione',
  'Tuva',
  'Wanja',
]
const FAMILY = [
  'Almqvist',
  'Barua',
  'Cisneros',
  'Dhakal',
  'Egger',
  'Faleolo',
  'Gruber',
  'Hewitt',
  'Ibarra',
  'Juma',
  'Kofler',
  'Lama',
  'Mwangi',
  'Nair',
  'Olsen',
  'Pukeroa',
  'Rinpoche',
  'Sarmiento',
  'Thapa',
  'Unger',
]

const cell = (value: unknown): string => {
  if (value === null) return '\\N'
  return String(value).replace(/\\/g, '\\\\').replace(/\t/g, '\\t').replace(/\n/g, '\\n')
}
/** The name of the nth date: a UUID of version 8 (RFC 9562). */
const numbered = (n: number): string => `00000000-0000-8000-8000-${n.toString(16).padStart(12, '0')}`

const line = (...values: readonly unknown[]): string => `${values.map(cell).join('\t')}\n`
const iso = (at: Instant): string => new Date(at).toISOString()
const range = (start: Instant, end: Instant): string => `[${iso(start)},${iso(end)})`

/** Ids that rise as rows do, so that the indexes on them grow at one end: thrice as fast as ids at random. */
const risingIds = () => {
  let next = 0
  return (): string =>
    `${(++next).toString(16).padStart(8, '0')}-0000-4000-8000-${next.toString(16).padStart(12, '0')}`
}

/** Sends rows by COPY, made as they are sent, so that memory does not grow with their number. */
const copy = async (sql: pg.PoolClient, target: string, rows: Iterable<string>): Promise<void> => {
  const inParts = function* () {
    let part = ''
    for (const row of rows) {
      part += row
      if (part.length < 1 << 16) continue
      yield part
      part = ''
    }
    yield part
  }
  await pipeline(Readable.from(inParts()), sql.query(copyFrom(`copy ${target} from stdin`)))
}

interface LargePerson {
  readonly id: string
  readonly name: string
  readonly site: (typeof SITES)[number]
  readonly pattern: keyof typeof PATTERNS
}

interface LargeEntry {
  readonly id: string
  readonly participantId: string
  readonly owner: LargePerson
  readonly starts: number
  readonly minutes: number
  readonly rule: string | null
  readonly title: string
  readonly shows: string
  readonly others: readonly {
    readonly participantId: string
    readonly person: LargePerson
    readonly answer: string
  }[]
}

const TITLES = Object.values(WORK).flat()

type Random = ReturnType<typeof seeded>

/** The people added to the demo's, their hours and their teams. */
const writePeople = async (
  sql: pg.PoolClient,
  demo: Demo,
  added: readonly LargePerson[],
  random: Random,
): Promise<void> => {
  // One password for all: hashing thousands would take minutes.
  const hash = await sql.query<{ password_hash: string }>('select password_hash from person limit 1')
  const siteIds = new Map(demo.sites.map((site) => [site.name, site.id]))
  await copy(
    sql,
    'person (id, name, address, role, site_id, zone, password_hash)',
    added.map((one, i) =>
      line(
        one.id,
        one.name,
        addressOf(one.name).replace('@', `.${i}@`),
        'Staff',
        siteIds.get(one.site.name),
        one.site.zone,
        hash.rows[0]?.password_hash,
      ),
    ),
  )
  await copy(
    sql,
    'working_hours (person_id, weekday, from_minute, to_minute)',
    added.flatMap((one) =>
      PATTERNS[one.pattern].days.flatMap((weekday) =>
        PATTERNS[one.pattern].spans.map(([from, to]) => line(one.id, weekday, from, to)),
      ),
    ),
  )
  await copy(
    sql,
    'team_member (team_id, person_id)',
    added.map((one) => line(random.pick(demo.teams).id, one.id)),
  )
}

/** A place that was added, by its site. */
interface LargePlace {
  readonly id: string
  readonly site: string
}

/** Of so many of the added places Ilse is the steward, whose table is measured. */
const STEWARDED = 60

/** Rooms, desks and equipment added to the demo's. */
const writePlaces = async (
  sql: pg.PoolClient,
  demo: Demo,
  size: Size,
  random: Random,
  stewardId: string | undefined,
): Promise<LargePlace[]> => {
  const many = Math.max(0, size.resources - demo.places.length)
  const added = Array.from({ length: many }, () => ({ id: random.uuid(), site: random.pick(demo.sites) }))
  await copy(
    sql,
    'resource (id, name, kind, site_id, floor, seats, features, steward_id)',
    added.map(({ id, site }, i) => {
      const kind = i % 3 === 0 ? 'room' : i % 3 === 1 ? 'desk' : 'equipment'
      const features = { screens: 1 + random.below(2), ...(random.chance(0.5) ? { camera: 1 } : {}) }
      return line(
        id,
        `Nunatak ${i + 1}`,
        kind,
        site.id,
        String(i % 5),
        kind === 'room' ? 2 + random.below(20) : 1,
        JSON.stringify(kind === 'equipment' ? {} : features),
        i < STEWARDED ? (stewardId ?? null) : null,
      )
    }),
  )
  await copy(
    sql,
    'opening_hours (resource_id, weekday, from_minute, to_minute)',
    added.flatMap(({ id }) => [1, 2, 3, 4, 5, 6, 7].map((weekday) => line(id, weekday, 0, 1440))),
  )
  return added.map(({ id, site }) => ({ id, site: site.name }))
}

/** Every so many dates has a place, where one of its site is free; that is some four a day for each. */
const PLACED_EVERY = 6

/** Places for dates, none twice at once; the same seed gives the same ones. */
const largeReservations = function* (
  dates: Iterable<{
    readonly id: string
    readonly one: LargeEntry
    readonly start: Instant
    readonly end: Instant
  }>,
  places: readonly LargePlace[],
): Generator<string> {
  const own = seeded(77)
  const bySite = new Map(SITES.map((site) => [site.name, places.filter((one) => one.site === site.name)]))
  /** What is taken, by place and day; a date that reaches into the next day takes nothing. */
  const taken = new Map<string, { readonly start: Instant; readonly end: Instant }[]>()
  let n = 0
  for (const { id, one, start, end } of dates) {
    if (n++ % PLACED_EVERY > 0 || Math.floor(start / DAY) !== Math.floor((end - 1) / DAY)) continue
    const there = bySite.get(one.owner.site.name) ?? []
    if (there.length === 0) continue
    const place = own.pick(there)
    const key = `${place.id} ${Math.floor(start / DAY)}`
    const others = taken.get(key) ?? []
    if (others.some((other) => other.start < end && start < other.end)) continue
    taken.set(key, [...others, { start, end }])
    const span = range(start, end)
    yield line(place.id, id, span, span, one.owner.id, 'taken')
  }
}

/** Entries one after the other; the same seed gives the same ones each time it is gone through. */
const largeEntries = function* (
  people: readonly LargePerson[],
  ilseId: string | undefined,
  monday: Day,
  size: Size,
): Generator<LargeEntry> {
  const own = seeded(4242)
  const id = risingIds()
  const make = (owner: LargePerson, day: Day, rule: string | null = null): LargeEntry => {
    const [from, to] = PATTERNS[owner.pattern].spans[0] ?? [480, 1020]
    const minute = from + 15 * own.below(Math.max(1, (to - from) / 15))
    const meeting = rule === null && own.chance(0.12)
    const others = meeting
      ? [...new Set(Array.from({ length: 2 + own.below(4) }, () => own.below(people.length)))].flatMap(
          (i) => {
            const person = people[i]
            return person && person.id !== owner.id
              ? [
                  {
                    participantId: own.uuid(),
                    person,
                    answer: own.pick(['accepted', 'accepted', 'tentative', 'needs-action']),
                  },
                ]
              : []
          },
        )
      : []
    return {
      id: id(),
      participantId: id(),
      owner,
      starts: wallOf(day, minute),
      minutes: own.pick([15, 30, 30, 45, 60, 60, 90, 120]),
      rule,
      title: own.pick(TITLES),
      shows: own.chance(0.08) ? 'tentative' : 'busy',
      others,
    }
  }
  const me = people.find((one) => one.id === ilseId)
  if (me) {
    for (let i = 0; i < YEAR_ENTRIES; i++) yield make(me, monday - 28 + own.below(365))
    for (let i = 0; i < YEAR_SERIES; i++)
      yield make(me, monday - 28 + (i % 5), `FREQ=WEEKLY;INTERVAL=${1 + (i % 4)};COUNT=60`)
  }
  for (let made = me ? YEAR_ENTRIES + YEAR_SERIES : 0; made < size.entries; ) {
    const day = monday - 7 * WEEKS_BACK + own.below(7 * (WEEKS_BACK + WEEKS_AHEAD))
    const owner = own.pick(people)
    if (weekdayOf(day) > 5) continue
    made++
    yield make(owner, day)
  }
}

interface LargeDate {
  readonly id: string
  readonly one: LargeEntry
}

/** Agendas of a third of the meetings, and what was said about another third. */
const writeTalk = async (
  sql: pg.PoolClient,
  dates: () => Iterable<LargeDate>,
  now: Instant,
): Promise<void> => {
  const own = seeded(29)
  const agendas = Array.from({ length: 50 }, () => {
    const document = new Y.Doc()
    for (let i = 1; i <= 4; i++)
      addItem(document, `first-${i}`, { title: own.pick(TITLES), who: own.pick(GIVEN), minutes: 10 })
    const kept = Buffer.from(Y.encodeStateAsUpdate(document)).toString('hex')
    return { document: `\\x${kept}`, text: agendaText(readAgenda(document)) }
  })
  const ofMeetings = function* (every: number) {
    let n = 0
    for (const date of dates()) if (date.one.others.length > 0 && n++ % 3 === every) yield date
  }
  await copy(
    sql,
    'agenda (occurrence_id, document, text)',
    (function* () {
      for (const { id } of ofMeetings(0)) {
        const { document, text } = own.pick(agendas)
        yield line(id, document, text)
      }
    })(),
  )
  await copy(
    sql,
    'message (occurrence_id, person_id, participant_id, text, at)',
    (function* () {
      for (const { id, one } of ofMeetings(1))
        for (const { person, participantId } of one.others)
          yield line(
            id,
            person.id,
            participantId,
            `${own.pick(TITLES)} first, then ${own.pick(TITLES)}`,
            iso(now),
          )
    })(),
  )
}

/**
 * Grows the demo to a large organisation by COPY: people, places, and entries over the same weeks as the demo's, some of
 * them meetings of several people; and for Ilse a full year. The indexes of the hottest tables are made at the end.
 */
export const makeLarge = async (
  pool: pg.Pool,
  demo: Demo,
  now: Instant,
  size: Size,
  say: (words: string) => void,
): Promise<void> => {
  const random = seeded(815)
  const sql = await pool.connect()
  const patterns = Object.keys(PATTERNS) as (keyof typeof PATTERNS)[]
  const ilse = demo.people.find((one) => one.name === 'Ilse Brandacher')
  const added: LargePerson[] = Array.from(
    { length: Math.max(0, size.people - demo.people.length) },
    (_, i) => ({
      id: random.uuid(),
      name: `${random.pick(GIVEN)} ${random.pick(FAMILY)}`,
      site: random.pick(SITES),
      pattern: i % 3 === 0 ? random.pick(patterns) : (patterns[0] ?? 'office'),
    }),
  ) as LargePerson[]
  const people: LargePerson[] = [
    ...demo.people.map((one) => ({
      id: one.id,
      name: one.name,
      site: SITES.find((site) => site.name === one.site) ?? SITES[0],
      pattern: one.pattern,
    })),
    ...added,
  ]
  const monday = weekStart(dayOf(toWall(zoneTable('Europe/Vienna'), now)))

  try {
    await sql.query('begin')
    // What refers to what is right as it is made; checking each row would take most of the time.
    await sql.query('set local session_replication_role = replica')
    await sql.query(`drop index ${INDEXES.map((one) => one.name).join(', ')}`)
    say(`people: ${people.length}`)
    await writePeople(sql, demo, added, random)
    const places = await writePlaces(sql, demo, size, random, ilse?.id)
    const entries = () => largeEntries(people, ilse?.id, monday, size)
    say(`entries: ${size.entries}`)
    await copy(
      sql,
      'entry (id, uid, owner_id, zone, starts, minutes, rule, title, shows, created_at)',
      (function* () {
        for (const one of entries())
          yield line(
            one.id,
            `${one.id}@marmot.corrie.example`,
            one.owner.id,
            one.owner.site.zone,
            wallText(one.starts),
            one.minutes,
            one.rule,
            one.title,
            one.shows,
            iso(now),
          )
      })(),
    )
    say('participants')
    await copy(
      sql,
      'participant (id, entry_id, person_id, organizer, answer)',
      (function* () {
        for (const one of entries()) {
          yield line(one.participantId, one.id, one.owner.id, 't', 'accepted')
          for (const other of one.others)
            yield line(other.participantId, one.id, other.person.id, 'f', other.answer)
        }
      })(),
    )
    const dates = function* () {
      let n = 0
      for (const one of entries()) {
        const table = zoneTable(one.owner.site.zone)
        if (one.rule === null) {
          const start = instantOf(table, one.starts)
          yield { id: numbered(n++), one, recurrence: one.starts, start, end: start + one.minutes * MINUTE }
        } else {
          const series = { starts: one.starts, minutes: one.minutes, rule: one.rule, added: [], excepted: [] }
          for (const date of occurrencesWithin(series, [], table, now - 400 * DAY, now + 550 * DAY))
            yield { id: numbered(n++), one, ...date }
        }
      }
    }
    say('occurrences')
    await copy(
      sql,
      'occurrence (id, entry_id, recurrence, span)',
      (function* () {
        for (const date of dates())
          yield line(date.id, date.one.id, wallText(date.recurrence), range(date.start, date.end))
      })(),
    )
    say('attendances')
    await copy(
      sql,
      'attendance (occurrence_id, participant_id, person_id, span, answer, shows)',
      (function* () {
        for (const date of dates()) {
          const span = range(date.start, date.end)
          yield line(date.id, date.one.participantId, date.one.owner.id, span, 'accepted', date.one.shows)
          for (const other of date.one.others)
            yield line(date.id, other.participantId, other.person.id, span, other.answer, date.one.shows)
        }
      })(),
    )
    say('reservations')
    await copy(
      sql,
      'reservation (resource_id, occurrence_id, span, blocked, person_id, state)',
      largeReservations(dates(), places),
    )
    say('agendas and messages')
    await writeTalk(sql, dates, now)
    say('indexes')
    await sql.query("set local maintenance_work_mem = '1GB'")
    for (const { name, on } of INDEXES) await sql.query(`create index ${name} on ${on}`)
    await sql.query('commit')
  } catch (error) {
    await sql.query('rollback')
    throw error
  } finally {
    sql.release()
  }
  say('statistics')
  await pool.query('vacuum analyze')
}
