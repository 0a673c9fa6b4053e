import type { AgendaItem } from '@marmot/core/agenda'
import { noteOfText } from '@marmot/core/entries'
import { occurrencesWithin } from '@marmot/core/recurrence'
import type { Answer, SpanState } from '@marmot/core/sharing'
import {
  type Day,
  dayOf,
  dayText,
  HOUR,
  type Instant,
  instantOf,
  MINUTE,
  toWall,
  type Wall,
  wallOf,
  weekdayOf,
  weekStart,
  zoneTable,
} from '@marmot/core/time'
import { type Random, seeded } from './random.ts'
import {
  CATEGORIES,
  PATTERNS,
  PEOPLE,
  type PersonPlan,
  PLACES,
  SITES,
  TEAMS,
  TRAINED,
  TRAINED_BESIDES,
  WORK,
} from './scenario.ts'

const WEEKS_BACK = 8
const WEEKS_AHEAD = 16

export interface DemoPerson extends PersonPlan {
  readonly id: string
  readonly zone: string
  readonly address: string
}

export interface DemoGuest {
  readonly address: string
  readonly name: string
}

export interface DemoParticipant {
  readonly id: string
  readonly personId: string | null
  readonly guest: DemoGuest | null
  readonly required: boolean
  readonly organizer: boolean
  readonly answer: Answer
}

export interface DemoEntry {
  readonly id: string
  readonly ownerId: string
  readonly zone: string
  readonly starts: Wall
  readonly minutes: number
  readonly allDay: boolean
  readonly rule: string | null
  readonly excepted: readonly Wall[]
  readonly title: string
  readonly place: string
  readonly note: string
  readonly shows: SpanState
  readonly private: boolean
  /** When it goes by itself: a hold. */
  readonly lapsesAt: Instant | null
  /** What its places are for, where it is a reservation. */
  readonly purpose: string
  readonly participants: readonly DemoParticipant[]
  /** What is to be talked about at its first date. */
  readonly agenda: readonly Omit<AgendaItem, 'id'>[]
  /** What was said about its first date, and who would rather meet at another time. */
  readonly said: readonly DemoMessage[]
  readonly proposed: DemoProposal | null
  readonly occurrences: readonly { id: string; recurrence: Wall; start: Instant; end: Instant }[]
}

export interface DemoMessage {
  readonly personId: string
  readonly text: string
  readonly at: Instant
}

export interface DemoProposal {
  readonly participantId: string
  readonly start: Instant
  readonly end: Instant
  readonly message: string
  readonly at: Instant
}

export interface DemoReservation {
  readonly resourceId: string
  /** The date that it is taken for. */
  readonly occurrenceId: string
  readonly personId: string
  readonly start: Instant
  readonly end: Instant
  readonly state: 'held' | 'taken'
}

/** The address of a person: the name in plain letters, at the institute. */
export const addressOf = (name: string): string =>
  `${name
    .toLowerCase()
    .replace(/ø/g, 'o')
    .normalize('NFD')
    .replace(/[^a-z ]/g, '')
    .trim()
    .replace(/ +/g, '.')}@corrie.example`

/** What is planned, before its dates are worked out. */
interface Plan {
  owner: string
  day: Day
  minute: number
  minutes: number
  title: string
  zone?: string
  rule?: string
  excepted?: Wall[]
  with?: readonly { name: string; required?: boolean; answer?: Answer }[]
  guests?: readonly (DemoGuest & { answer?: Answer })[]
  shows?: SpanState
  private?: boolean
  /** Held until it begins. */
  lapses?: boolean
  purpose?: string
  note?: string
  place?: string
  agenda?: readonly (readonly [title: string, who: string, minutes: number])[]
  /** Who said what, and how many hours ago. */
  said?: readonly (readonly [name: string, text: string, hours: number])[]
  /** Who proposes which time instead, and how many hours ago. */
  proposed?: { name: string; day: Day; minute: number; message: string; hours: number }
}

/** Everything of the demo as plain data, relative to `now`. The same seed and day give the same data. */
export const generate = (now: Instant, seed = 4711) => {
  const random = seeded(seed)
  const names = seeded(seed + 1)
  const sites = SITES.map((site) => ({ ...site, id: random.uuid() }))
  const siteOf = (name: string) => sites.find((site) => site.name === name) ?? sites[0]
  const teams = TEAMS.map((name) => ({ name, id: random.uuid() }))
  const people: DemoPerson[] = PEOPLE.map((person) => ({
    ...person,
    id: random.uuid(),
    zone: siteOf(person.site)?.zone ?? 'Europe/Vienna',
    address: addressOf(person.name),
  }))
  const person = (name: string): DemoPerson => {
    const found = people.find((one) => one.name === name)
    if (!found) throw new Error(`The scenario has nobody called ${name}`)
    return found
  }
  const places = PLACES.map((place) => ({ ...place, id: random.uuid() }))
  const today = dayOf(toWall(zoneTable('Europe/Vienna'), now))
  const monday = weekStart(today)
  const first = monday - 7 * WEEKS_BACK
  const last = monday + 7 * WEEKS_AHEAD
  const until = `${dayText(last).replace(/-/g, '')}T000000Z`

  const entries: DemoEntry[] = []
  const add = (plan: Plan): DemoEntry => {
    const owner = person(plan.owner)
    const zone = plan.zone ?? owner.zone
    const series = {
      starts: wallOf(plan.day, plan.minute),
      minutes: plan.minutes,
      allDay: plan.minute === 0 && plan.minutes % 1440 === 0,
      rule: plan.rule ?? null,
      added: [],
      excepted: plan.excepted ?? [],
    }
    const asked = (plan.with ?? []).map((one) => ({
      id: random.uuid(),
      personId: person(one.name).id,
      guest: null,
      required: one.required ?? true,
      organizer: false,
      answer: one.answer ?? 'accepted',
    }))
    const guests = (plan.guests ?? []).map(({ answer, ...guest }) => ({
      id: random.uuid(),
      personId: null,
      guest,
      required: true,
      organizer: false,
      answer: answer ?? ('needs-action' as const),
    }))
    const { proposed } = plan
    const proposer = asked.find((one) => proposed && one.personId === person(proposed.name).id)
    const instead = proposed ? instantOf(zoneTable(zone), wallOf(proposed.day, proposed.minute)) : 0
    const entry: DemoEntry = {
      id: random.uuid(),
      ownerId: owner.id,
      zone,
      ...series,
      title: plan.title,
      place: plan.place ?? '',
      note: noteOfText(plan.note ?? ''),
      shows: plan.shows ?? 'busy',
      private: plan.private ?? false,
      lapsesAt: plan.lapses ? instantOf(zoneTable(zone), series.starts) : null,
      purpose: plan.purpose ?? '',
      participants: [
        {
          id: random.uuid(),
          personId: owner.id,
          guest: null,
          required: true,
          organizer: true,
          answer: 'accepted',
        },
        ...asked,
        ...guests,
      ],
      agenda: (plan.agenda ?? []).map(([title, who, minutes]) => ({ title, who, minutes })),
      said: (plan.said ?? []).map(([name, text, hours]) => ({
        personId: person(name).id,
        text,
        at: now - hours * HOUR,
      })),
      proposed:
        proposed && proposer
          ? {
              participantId: proposer.id,
              start: instead,
              end: instead + plan.minutes * MINUTE,
              message: proposed.message,
              at: now - proposed.hours * HOUR,
            }
          : null,
      occurrences: occurrencesWithin(series, [], zoneTable(zone), wallOf(first - 40), wallOf(last + 40)).map(
        (date) => ({ ...date, id: names.uuid() }),
      ),
    }
    entries.push(entry)
    return entry
  }

  const reservations: DemoReservation[] = []
  const taken = new Map<string, { start: Instant; end: Instant }[]>()
  const placeCalled = (name: string) => {
    const place = places.find((one) => one.name === name)
    if (!place) throw new Error(`The scenario has no place called ${name}`)
    return place
  }
  const isFree = (placeName: string, { start, end }: { start: Instant; end: Instant }): boolean => {
    const { id, turnaround = 0 } = placeCalled(placeName)
    const until = end + turnaround * MINUTE
    return !taken.get(id)?.some((other) => other.start < until && other.end > start)
  }
  /** Reserves a place for each date for which it is free, its turnaround counted, so that the demo never breaks the constraint. */
  const reserveAll = (placeName: string, entry: DemoEntry) => {
    const { id: resourceId, turnaround = 0 } = placeCalled(placeName)
    for (const { id, start, end } of entry.occurrences) {
      if (!isFree(placeName, { start, end })) continue
      taken.set(resourceId, [...(taken.get(resourceId) ?? []), { start, end: end + turnaround * MINUTE }])
      const state = entry.lapsesAt === null ? ('taken' as const) : ('held' as const)
      reservations.push({ resourceId, occurrenceId: id, personId: entry.ownerId, start, end, state })
    }
  }
  const atDay = (week: number, weekday: number): Day => monday + 7 * week + weekday - 1
  const ctx = { random, add, reserveAll, isFree, people, atDay, first, last, until, today }
  planTeams(ctx)
  planAnswers(ctx)
  planIlse(ctx)
  planLeading(ctx)
  planEverybody(ctx)
  planPlaces(ctx)

  const icefall = places.find((place) => place.name === 'Icefall')
  const zone = zoneTable('Europe/Vienna')
  const closures = icefall
    ? [
        {
          resourceId: icefall.id,
          start: instantOf(zone, wallOf(today - 3)),
          end: instantOf(zone, wallOf(today + 12)),
          reason: 'in repair: the ceiling leaks',
        },
      ]
    : []
  const trained = places
    .filter((place) => place.trained)
    .flatMap((place) =>
      [...TRAINED, ...TRAINED_BESIDES].map((name) => ({ resourceId: place.id, personId: person(name).id })),
    )
  planHeadsCalls(ctx)
  return {
    sites,
    teams,
    people,
    places,
    entries,
    reservations,
    closures,
    trained,
    categories: CATEGORIES,
    patterns: PATTERNS,
  }
}

export type Demo = ReturnType<typeof generate>

interface Context {
  random: Random
  add: (plan: Plan) => DemoEntry
  reserveAll: (placeName: string, entry: DemoEntry) => void
  isFree: (placeName: string, span: { start: Instant; end: Instant }) => boolean
  people: readonly DemoPerson[]
  atDay: (week: number, weekday: number) => Day
  first: Day
  last: Day
  until: string
  today: Day
}

/** The repeating meetings of the teams, and the calls that join the sites. */
const planTeams = ({ add, reserveAll, people, atDay, until }: Context): void => {
  const weekly = (day: string) => `FREQ=WEEKLY;BYDAY=${day};UNTIL=${until}`
  const ofTeam = (team: string, site: string, notThis: string) =>
    people
      .filter((one) => one.team === team && one.site === site && one.name !== notThis)
      .map((one) => ({ name: one.name }))
  reserveAll(
    'Serac',
    add({
      owner: 'Matteo Ruprechter',
      day: atDay(-8, 2),
      minute: 540,
      minutes: 45,
      title: 'Core planning',
      rule: weekly('TU'),
      with: ofTeam('Ice Core', 'Innsbruck', 'Matteo Ruprechter'),
    }),
  )
  reserveAll(
    'Moraine',
    add({
      owner: 'Lukas Innerebner',
      day: atDay(-8, 1),
      minute: 480,
      minutes: 30,
      title: 'Bulletin hand-over',
      rule: `FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR;UNTIL=${until}`,
      with: ofTeam('Avalanche Forecast', 'Innsbruck', 'Lukas Innerebner'),
    }),
  )
  reserveAll(
    'Col',
    add({
      owner: 'Gernot Fallmerayer',
      day: atDay(-8, 3),
      minute: 600,
      minutes: 60,
      title: 'Instrument rounds',
      rule: weekly('WE'),
      with: ofTeam('Instruments', 'Innsbruck', 'Gernot Fallmerayer'),
    }),
  )
  reserveAll(
    'Moraine',
    add({
      owner: 'Marek Dvořák',
      day: atDay(-8, 4),
      minute: 870,
      minutes: 60,
      title: 'Model reading',
      rule: weekly('TH'),
      with: ofTeam('Data', 'Innsbruck', 'Marek Dvořák'),
    }),
  )
  reserveAll(
    'Firn',
    add({
      owner: 'Henrike Aasland',
      day: atDay(-8, 1),
      minute: 600,
      minutes: 60,
      title: 'Heads of teams',
      rule: weekly('MO'),
      with: [
        { name: 'Ilse Brandacher' },
        { name: 'Matteo Ruprechter' },
        { name: 'Gernot Fallmerayer' },
        { name: 'Resi Oberhofer' },
        { name: 'Marek Dvořák' },
      ],
    }),
  )
  reserveAll(
    'Nunatak',
    add({
      owner: 'Wanjiru Kamande',
      day: atDay(-8, 2),
      minute: 600,
      minutes: 60,
      title: 'Gauge review',
      rule: weekly('TU'),
      with: ofTeam('Data', 'Nairobi', 'Wanjiru Kamande'),
    }),
  )
  reserveAll(
    'Arête',
    add({
      owner: 'Tashi Lhendup',
      day: atDay(-8, 3),
      minute: 630,
      minutes: 60,
      title: 'Station status',
      rule: weekly('WE'),
      with: [{ name: 'Sarita Maharjan' }, { name: 'Pema Dolkar' }, { name: 'Dipesh Joshi', required: false }],
    }),
  )
  reserveAll(
    'Esker',
    add({
      owner: 'Aroha Pene',
      day: atDay(-8, 2),
      minute: 570,
      minutes: 60,
      title: 'Bench day plan',
      rule: weekly('TU'),
      with: ofTeam('Instruments', 'Dunedin', 'Aroha Pene'),
    }),
  )
  reserveAll(
    'Cirque',
    add({
      owner: 'Catalina Reyes',
      day: atDay(-8, 1),
      minute: 600,
      minutes: 45,
      title: 'Season outlook',
      rule: weekly('MO'),
      with: ofTeam('Avalanche Forecast', 'Santiago', 'Catalina Reyes'),
    }),
  )
  reserveAll(
    'Kame',
    add({
      owner: 'Declan Furey',
      day: atDay(-8, 4),
      minute: 540,
      minutes: 60,
      title: 'Ice charts',
      rule: weekly('TH'),
      with: [{ name: 'Maeve Kinsella' }, { name: 'Anouk Tremblay-Roy' }, { name: 'Silas Noseworthy' }],
    }),
  )
  reserveAll(
    'Col',
    add({
      owner: 'Ilse Brandacher',
      day: atDay(-8, 4),
      minute: 480,
      minutes: 45,
      title: 'Station call',
      rule: `FREQ=WEEKLY;INTERVAL=2;BYDAY=TH;UNTIL=${until}`,
      with: [
        { name: 'Wanjiru Kamande' },
        { name: 'Tashi Lhendup' },
        { name: 'Henrike Aasland', required: false },
      ],
    }),
  )
  add({
    owner: 'Ilse Brandacher',
    day: atDay(-8, 5),
    minute: 930,
    minutes: 30,
    title: 'One to one, Henrike',
    rule: weekly('FR'),
    with: [{ name: 'Henrike Aasland' }],
  })
  add({
    owner: 'Ilse Brandacher',
    day: atDay(-8, 1),
    minute: 840,
    minutes: 45,
    title: 'Site offices',
    rule: weekly('MO'),
    with: [
      { name: 'Njeri Muthoni' },
      { name: 'Gita Shrestha', answer: 'tentative' },
      { name: 'Ximena Rojo' },
      { name: 'Bridget Hanrahan', required: false },
    ],
  })
}

/** The day that many days on, or the Monday after it: never a weekend, whatever day the demo is made on. */
const workingDayAfter = (today: Day, days: number): Day => {
  const day = today + days
  return weekdayOf(day) === 6 ? day + 2 : weekdayOf(day) === 7 ? day + 1 : day
}

/** What waits for Ilse's answer, and what she waits for herself. */
const planAnswers = ({ add, reserveAll, today }: Context): void => {
  const ahead = (days: number) => workingDayAfter(today, days)
  reserveAll(
    'Icefall',
    add({
      owner: 'Henrike Aasland',
      day: ahead(16),
      minute: 600,
      minutes: 60,
      title: 'Budget for the winter season',
      note: 'Please bring the travel lines.',
      agenda: [
        ['What is left of this year', 'Dragana Vuković', 15],
        ['Travel to the high stations', 'Ilse Brandacher', 20],
        ['What we put off until spring', '', 20],
      ],
      said: [
        ['Dragana Vuković', 'The figures of October are in the shared folder now.', 21],
        ['Henrike Aasland', 'Good. Then let us begin with those.', 20],
      ],
      with: [
        { name: 'Ilse Brandacher', answer: 'needs-action' },
        { name: 'Dragana Vuković', answer: 'accepted' },
      ],
    }),
  )
  add({
    owner: 'Wanjiru Kamande',
    day: ahead(3),
    minute: 720,
    minutes: 45,
    title: 'Gauge data hand-over',
    with: [
      { name: 'Ilse Brandacher', answer: 'needs-action', required: false },
      { name: 'Pooja Raghavan', answer: 'tentative' },
    ],
  })
  add({
    owner: 'Aroha Pene',
    day: ahead(7),
    minute: 1170,
    minutes: 30,
    title: 'Drone loan for the spring traverse',
    with: [
      { name: 'Ilse Brandacher', answer: 'needs-action' },
      { name: 'Resi Oberhofer', answer: 'needs-action' },
    ],
  })
  // Ilse's own, with replies outstanding.
  reserveAll(
    'Firn',
    add({
      owner: 'Ilse Brandacher',
      day: ahead(4),
      minute: 780,
      minutes: 60,
      title: 'Winter field safety',
      note: 'Beacons, radios, and who holds the key of the store.',
      place: 'Firn',
      agenda: [
        ['What happened last winter', 'Resi Oberhofer', 10],
        ['Beacons: which are too old', 'Kaspar Thöni', 15],
        ['Radios and who hears whom', '', 20],
        ['The key of the store', 'Ilse Brandacher', 5],
      ],
      said: [
        ['Resi Oberhofer', 'I bring the two beacons that did not answer on the glacier.', 44],
        ['Ilse Brandacher', 'Thank you. Eszter is away, I send her the notes.', 43],
        ['Ødger Lund', 'Could the radios come first? They take the longest.', 18],
      ],
      proposed: {
        name: 'Ødger Lund',
        day: ahead(4),
        minute: 960,
        message: 'I am up on the slope with the avalanche dogs until two.',
        hours: 17,
      },
      with: [
        { name: 'Resi Oberhofer' },
        { name: 'Kaspar Thöni', answer: 'needs-action' },
        { name: 'Eszter Bakonyi', answer: 'declined' },
        { name: 'Ødger Lund', answer: 'tentative' },
        { name: 'Mwangi Gathogo', answer: 'needs-action', required: false },
      ],
    }),
  )
  reserveAll(
    'Serac',
    add({
      owner: 'Ilse Brandacher',
      day: ahead(9),
      minute: 840,
      minutes: 60,
      title: 'Visit of Lodestar Instruments',
      with: [
        { name: 'Henrike Aasland', answer: 'accepted' },
        { name: 'Gernot Fallmerayer', answer: 'needs-action' },
      ],
      guests: [
        { name: 'Noor Haddad', address: 'noor.haddad@lodestar.example', answer: 'accepted' },
        { name: 'Sven Ekdahl', address: 'sven.ekdahl@lodestar.example' },
      ],
    }),
  )
}

/** Ilse's own days. */
const planIlse = ({ add, atDay, today, until }: Context): void => {
  const ahead = (days: number) => workingDayAfter(today, days)
  add({
    owner: 'Ilse Brandacher',
    day: atDay(-8, 2),
    minute: 510,
    minutes: 60,
    title: 'Post and travel',
    rule: `FREQ=WEEKLY;BYDAY=TU,TH;UNTIL=${until}`,
  })
  add({
    owner: 'Ilse Brandacher',
    day: ahead(1),
    minute: 660,
    minutes: 60,
    title: 'Field kit inventory',
    place: 'store',
  })
  add({
    owner: 'Ilse Brandacher',
    day: ahead(1),
    minute: 690,
    minutes: 45,
    title: 'Call the ropeway office',
    shows: 'tentative',
  })
  add({ owner: 'Ilse Brandacher', day: ahead(2), minute: 1020, minutes: 60, title: 'Dentist', private: true })
  add({
    owner: 'Ilse Brandacher',
    day: ahead(2),
    minute: 0,
    minutes: 1440,
    title: 'Reports due',
    shows: 'listed',
  })
  add({
    owner: 'Ilse Brandacher',
    day: ahead(6),
    minute: 600,
    minutes: 90,
    title: 'Held for the auditors',
    shows: 'held',
  })
}

/** Who of the leading people is away or travelling, and whose times clash. */
const planLeading = ({ add, today }: Context): void => {
  const ahead = (days: number) => workingDayAfter(today, days)
  add({
    owner: 'Bertrand Quemener',
    day: ahead(2),
    minute: 0,
    minutes: 14 * 1440,
    title: 'Leave',
    shows: 'away',
  })
  add({
    owner: 'Tashi Lhendup',
    day: ahead(5),
    minute: 0,
    minutes: 2 * 1440,
    title: 'Up at the Ganja station',
    shows: 'away',
  })
  add({
    owner: 'Henrike Aasland',
    day: ahead(12),
    minute: 360,
    minutes: 2 * 1440,
    title: 'Travel to Nairobi',
    shows: 'away',
  })
  add({ owner: 'Matteo Ruprechter', day: ahead(8), minute: 840, minutes: 90, title: 'Freezer maintenance' })
  add({ owner: 'Matteo Ruprechter', day: ahead(8), minute: 870, minutes: 60, title: 'Referee report' })
  add({
    owner: 'Matteo Ruprechter',
    day: ahead(3),
    minute: 930,
    minutes: 60,
    title: 'Saw blade delivery',
    shows: 'tentative',
  })
  add({ owner: 'Catalina Reyes', day: ahead(4), minute: 660, minutes: 120, title: 'Hazard map workshop' })
  add({
    owner: 'Tashi Lhendup',
    day: ahead(8),
    minute: 900,
    minutes: 60,
    title: 'Yak contract',
    shows: 'held',
  })
  add({ owner: 'Wanjiru Kamande', day: ahead(8), minute: 540, minutes: 90, title: 'Gauge upload' })
  add({
    owner: 'Declan Furey',
    day: ahead(10),
    minute: 540,
    minutes: 300,
    title: 'On the ice with the buoys',
    shows: 'away',
  })
}

/** Calls of all stations that were held at an hour of Innsbruck, so that it is no secret who bore the nights. */
const planHeadsCalls = ({ add, atDay }: Context): void => {
  for (const { week, minute } of [
    { week: -7, minute: 840 },
    { week: -5, minute: 840 },
    { week: -3, minute: 810 },
  ])
    add({
      owner: 'Ilse Brandacher',
      day: atDay(week, 3),
      minute,
      minutes: 60,
      title: 'Stations together',
      with: [
        { name: 'Wanjiru Kamande' },
        { name: 'Tashi Lhendup' },
        { name: 'Catalina Reyes' },
        { name: 'Declan Furey' },
        { name: 'Aroha Pene' },
      ],
    })
}

const FILLED_SHARE = 0.34

/** Ordinary work for everybody, so that the lanes look lived in. */
const planEverybody = ({ random, add, people, first, last }: Context): void => {
  for (const one of people) {
    const pattern = PATTERNS[one.pattern]
    const [from, to] = [pattern.spans[0]?.[0] ?? 480, pattern.spans.at(-1)?.[1] ?? 1020]
    for (let day = first; day < last; day++) {
      if (!(pattern.days as readonly number[]).includes(weekdayOf(day))) continue
      const near = Math.abs(day - (first + 7 * WEEKS_BACK)) < 35
      let minute = from + 30 * random.below(4)
      while (minute < to - 60) {
        const minutes = random.pick([30, 45, 60, 60, 90, 120])
        if (random.chance(near ? FILLED_SHARE : FILLED_SHARE * 0.6) && minute + minutes <= to) {
          const roll = random.next()
          const shows: SpanState = roll < 0.1 ? 'tentative' : roll < 0.14 ? 'listed' : 'busy'
          add({
            owner: one.name,
            day,
            minute,
            minutes,
            title: random.pick(WORK[one.team]),
            shows,
            private: random.chance(0.04),
          })
        }
        minute += minutes + 30 * random.below(3)
      }
    }
    if (random.chance(0.3)) {
      const away = first + 7 * (WEEKS_BACK + 2) + random.below(7 * 8)
      add({
        owner: one.name,
        day: away,
        minute: 0,
        minutes: 1440 * (2 + random.below(4)),
        title: random.pick(['Leave', 'Field trip', 'Conference']),
        shows: 'away',
      })
    }
  }
}

/** Desks, labs, rooms and equipment taken on their own, with no meeting. */
const planPlaces = ({ random, add, reserveAll, isFree, people, first, last, today }: Context): void => {
  const zones = new Map(SITES.map((site) => [site.name, site.zone]))
  const visit = { owner: 'Henrike Aasland', day: workingDayAfter(today, 7), minute: 840, minutes: 90 }
  const wanted: (Plan & { at: string })[] = [
    { ...visit, title: 'Held for a visitor', shows: 'held', lapses: true, at: 'Bergschrund' },
  ]
  const atSite = new Map(SITES.map((site) => [site.name, people.filter((one) => one.site === site.name)]))
  for (let day = first; day < last; day++) {
    if (weekdayOf(day) > 5) continue
    for (const place of PLACES) {
      const here = atSite.get(place.site) ?? people
      const take = (minute: number, minutes: number, owner: string, purpose: string) => {
        const zone = zones.get(place.site) ?? 'UTC'
        wanted.push({
          owner,
          day,
          minute,
          minutes,
          zone,
          title: purpose,
          purpose,
          shows: 'listed',
          at: place.name,
        })
      }
      if (place.kind === 'desk' && random.chance(0.28)) take(480, 540, random.pick(here).name, 'Desk')
      if (place.trained && random.chance(0.6))
        take(random.pick([480, 540, 780]), random.pick([90, 120, 180]), random.pick(TRAINED), 'Core cutting')
      if (place.kind === 'room' && place.name !== 'Icefall') {
        // Big halls stand empty more often than small rooms.
        const busy = place.seats > 20 ? 0.12 : 0.42
        for (let minute = 480 + 30 * random.below(3); minute < 1020; minute += 90 + 30 * random.below(3)) {
          if (random.chance(busy))
            take(minute, random.pick([30, 45, 60, 60, 90]), random.pick(here).name, random.pick(PURPOSES))
        }
      }
      if (place.kind === 'equipment' && random.chance(0.1))
        take(480, 540 + 1440 * random.below(3), random.pick(here).name, 'Field day')
    }
  }
  for (const { at, ...plan } of wanted) {
    const start = instantOf(zoneTable(plan.zone ?? 'Europe/Vienna'), wallOf(plan.day, plan.minute))
    if (isFree(at, { start, end: start + plan.minutes * MINUTE })) reserveAll(at, add(plan))
  }
}

const PURPOSES = ['Interview', 'Reading group', 'Supplier call', 'Thesis talk', 'Quiet work', 'Visitors']
