import { type VisitKind, visitKind } from '@marmot/contract/visit-pages'
import type { Had } from '@marmot/core/visits'
import { at, endMs, msSql, type Sql, startMs } from '../platform/database.ts'

/** A kind of meeting as it is kept, with the page that it is on. */
export interface KeptKind {
  readonly id: string
  readonly slug: string
  readonly pageId: string
  readonly pageSlug: string
  readonly pageName: string
  readonly pageAbout: string
  readonly accent: number
  readonly ownerId: string
  readonly zone: string
  readonly siteId: string
  /** Whether it and its page are on. */
  readonly on: boolean
  readonly terms: VisitKind
  readonly hosts: readonly KeptHost[]
}

/** Somebody whose time a kind offers. */
export interface KeptHost {
  readonly id: string
  readonly name: string
  readonly zone: string
  readonly agreed: boolean
}

type KindRow = Omit<KeptKind, 'terms'> & { readonly terms: unknown }

const KIND = `k.id, k.slug, p.id as "pageId", p.slug as "pageSlug", p.name as "pageName", p.about as "pageAbout", p.accent,
  p.owner_id as "ownerId", o.zone, o.site_id as "siteId", (p.is_on and k.is_on) as on, k.terms || jsonb_build_object('slug', k.slug, 'on', k.is_on) as terms,
  coalesce((select jsonb_agg(jsonb_build_object('id', w.id, 'name', w.name, 'zone', w.zone, 'agreed', h.agreed_at is not null) order by h.number)
              from visit_host h join person w on w.id = h.person_id where h.kind_id = k.id), '[]') as hosts`
const FROM = 'from visit_kind k join visit_page p on p.id = k.page_id join person o on o.id = p.owner_id'

const read = (row: KindRow): KeptKind => ({ ...row, terms: visitKind.parse(row.terms) })

/** A kind by its address, on or off; null where there is none. */
export const kindAt = async (sql: Sql, page: string, kind: string): Promise<KeptKind | null> => {
  const { rows } = await sql.query<KindRow>(
    `select ${KIND} ${FROM} where p.slug = $1 and k.slug = $2 and k.gone_at is null`,
    [page, kind],
  )
  return rows[0] ? read(rows[0]) : null
}

/** A kind by its id, also one that was taken away. */
export const kindOf = async (sql: Sql, kindId: string): Promise<KeptKind | null> => {
  const { rows } = await sql.query<KindRow>(`select ${KIND} ${FROM} where k.id = $1`, [kindId])
  return rows[0] ? read(rows[0]) : null
}

/** The kinds of a page, or of all pages of somebody, in the order in which they were made. */
export const kindsOf = async (
  sql: Sql,
  which: { readonly pageId: string } | { readonly ownerId: string },
): Promise<KeptKind[]> => {
  const [where, value] = 'pageId' in which ? ['p.id = $1', which.pageId] : ['p.owner_id = $1', which.ownerId]
  const { rows } = await sql.query<KindRow>(
    `select ${KIND} ${FROM} where ${where} and k.gone_at is null order by k.made_at, k.id`,
    [value],
  )
  return rows.map(read)
}

/** A page as it is kept. */
export interface KeptPage {
  readonly id: string
  readonly ownerId: string
  readonly slug: string
  readonly name: string
  readonly about: string
  readonly accent: number
  readonly on: boolean
}

const PAGE = 'id, owner_id as "ownerId", slug, name, about, accent, is_on as on'

export const pageAt = async (sql: Sql, slug: string): Promise<KeptPage | null> =>
  (await sql.query<KeptPage>(`select ${PAGE} from visit_page where slug = $1 and gone_at is null`, [slug]))
    .rows[0] ?? null

export const pageOf = async (sql: Sql, pageId: string): Promise<KeptPage | null> =>
  (await sql.query<KeptPage>(`select ${PAGE} from visit_page where id = $1 and gone_at is null`, [pageId]))
    .rows[0] ?? null

export const pagesOf = async (sql: Sql, ownerId: string): Promise<KeptPage[]> =>
  (
    await sql.query<KeptPage>(
      `select ${PAGE} from visit_page where owner_id = $1 and gone_at is null order by made_at, id`,
      [ownerId],
    )
  ).rows

/** The names PostgreSQL gives the refusals of an address that is had already. */
export const SLUG_TAKEN = 'visit_page_slug_key'
export const KIND_TAKEN = 'visit_kind_slug'

/** Keeps a page, new, changed, or back after it was taken away. False where it is somebody else's. */
export const putPage = async (sql: Sql, page: KeptPage, now: number): Promise<boolean> =>
  ((
    await sql.query(
      `insert into visit_page (id, owner_id, slug, name, about, accent, is_on, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8)
       on conflict (id) do update set slug = $3, name = $4, about = $5, accent = $6, is_on = $7, gone_at = null
        where visit_page.owner_id = $2`,
      [page.id, page.ownerId, page.slug, page.name, page.about, page.accent, page.on, at(now)],
    )
  ).rowCount ?? 0) > 0

/** Takes a page away. What was taken on it is still in the list; its address is free for another. */
export const removePage = async (sql: Sql, pageId: string, now: number): Promise<void> => {
  await sql.query(`update visit_page set slug = 'gone-' || id, is_on = false, gone_at = $2 where id = $1`, [
    pageId,
    at(now),
  ])
}

/** Keeps a kind, new, changed, or back after it was taken away. False where it is on another page. */
export const putKind = async (
  sql: Sql,
  kind: { readonly id: string; readonly pageId: string; readonly terms: VisitKind },
  now: number,
): Promise<boolean> => {
  const { slug, on, ...terms } = kind.terms
  const put = await sql.query(
    `insert into visit_kind (id, page_id, slug, terms, is_on, made_at) values ($1, $2, $3, $4, $5, $6)
     on conflict (id) do update set slug = $3, terms = $4, is_on = $5, gone_at = null
      where visit_kind.page_id = $2`,
    [kind.id, kind.pageId, slug, JSON.stringify(terms), on, at(now)],
  )
  return (put.rowCount ?? 0) > 0
}

/** Makes exactly these the hosts of a kind; `agreed` have said so, or say so by this. Who agreed before has still. */
export const putHosts = async (
  sql: Sql,
  kindId: string,
  hosts: readonly string[],
  agreed: readonly string[],
  now: number,
): Promise<void> => {
  await sql.query('delete from visit_host where kind_id = $1 and not (person_id = any($2))', [kindId, hosts])
  await sql.query(
    `insert into visit_host (kind_id, person_id, number, agreed_at)
     select $1, d.person, d.number, case when d.person = any($3) then $4::timestamptz end
       from unnest($2::uuid[]) with ordinality d(person, number)
     on conflict (kind_id, person_id) do update
        set number = excluded.number, agreed_at = coalesce(visit_host.agreed_at, excluded.agreed_at)`,
    [kindId, hosts, agreed, at(now)],
  )
}

/** Keeps whether somebody agrees that their time is offered. False where nobody asks them. */
export const setAgreed = async (
  sql: Sql,
  kindId: string,
  personId: string,
  agree: boolean,
  now: number,
): Promise<boolean> =>
  ((
    await sql.query(
      'update visit_host set agreed_at = case when $3 then coalesce(agreed_at, $4) end where kind_id = $1 and person_id = $2',
      [kindId, personId, agree, at(now)],
    )
  ).rowCount ?? 0) > 0

/** The kinds of others that offer somebody's time, or would. */
export const hostingFor = async (sql: Sql, personId: string) =>
  (
    await sql.query<{ kindId: string; title: string; page: string; by: string; agreed: boolean }>(
      `select k.id as "kindId", k.terms ->> 'title' as title, p.name as page, o.name as by, h.agreed_at is not null as agreed
         from visit_host h join visit_kind k on k.id = h.kind_id and k.gone_at is null
         join visit_page p on p.id = k.page_id join person o on o.id = p.owner_id
        where h.person_id = $1 and p.owner_id <> $1 order by p.name, title`,
      [personId],
    )
  ).rows

/** Takes a kind away; the visits that were taken of it stay. */
export const removeKind = async (sql: Sql, kindId: string, now: number): Promise<void> => {
  await sql.query('update visit_kind set gone_at = $2, is_on = false where id = $1', [kindId, at(now)])
}

/** SQL: the date of a visit's meeting that stands. */
const STANDS = `join entry e on e.id = v.entry_id and e.deleted_at is null and e.cancelled_at is null
  join occurrence o on o.entry_id = e.id and o.gone_at is null`

/** When the visits of a kind that stand begin, by host, from an instant on. */
export const bookedOf = async (
  sql: Sql,
  kindId: string,
  from: number,
  apart: string | null,
): Promise<Map<string, number[]>> => {
  const { rows } = await sql.query<{ host: string; starts: number[] }>(
    `select h.host, array_agg(${startMs('o.span')}) as starts from visit v ${STANDS} cross join unnest(v.hosts) h(host)
      where v.kind_id = $1 and o.span && tstzrange($2, null) and ($3::uuid is null or v.id <> $3) group by h.host`,
    [kindId, at(from), apart],
  )
  return new Map(rows.map((row) => [row.host, row.starts]))
}

/** What the hosts of a kind have had since an instant, and have ahead. */
export const hadSince = async (sql: Sql, kindId: string, since: number): Promise<Map<string, Had>> => {
  const { rows } = await sql.query<{ host: string; visits: number; last: number }>(
    `select v.hosts[1] as host, count(*) as visits, ${msSql('max(v.taken_at)')} as last from visit v ${STANDS}
      where v.kind_id = $1 and v.taken_at > $2 group by v.hosts[1]`,
    [kindId, at(since)],
  )
  return new Map(rows.map((row) => [row.host, { visits: row.visits, last: row.last }]))
}

/** Waits until nobody else gives a time of these people away, until the transaction ends: two visitors at once are one after the other. */
export const lockHosts = async (sql: Sql, hosts: readonly string[]): Promise<void> => {
  for (const id of [...new Set(hosts)].sort())
    await sql.query("select pg_advisory_xact_lock(hashtextextended('visit to ' || $1, 0))", [id])
}

/** Keeps what was taken. */
export const insertVisit = async (
  sql: Sql,
  visit: {
    readonly kindId: string
    readonly entryId: string
    readonly hosts: readonly string[]
    readonly name: string
    readonly address: string
    readonly zone: string
    readonly guests: number
    readonly answers: readonly string[]
    readonly start: number
    readonly end: number
  },
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into visit (kind_id, entry_id, hosts, name, address, zone, guests, answers, span, taken_at)
     values ($1, $2, $3, $4, $5, $6, $7, $8, tstzrange($9, $10), $11)`,
    [
      visit.kindId,
      visit.entryId,
      visit.hosts,
      visit.name,
      visit.address,
      visit.zone,
      visit.guests,
      visit.answers,
      at(visit.start),
      at(visit.end),
      at(now),
    ],
  )
}

/** A visit as it stands. */
export interface KeptVisit {
  readonly id: string
  readonly kindId: string
  readonly entryId: string
  readonly occurrenceId: string
  readonly hosts: readonly string[]
  readonly host: string
  readonly name: string
  readonly address: string
  readonly version: number
  readonly zone: string
  readonly start: number
  readonly end: number
}

/** The visit whose meeting an entry is, where it stands; null where it is none. */
export const visitOf = async (sql: Sql, entryId: string): Promise<KeptVisit | null> =>
  (
    await sql.query<KeptVisit>(
      `select v.id, v.kind_id as "kindId", e.id as "entryId", o.id as "occurrenceId", v.hosts, w.name as host, v.name, v.address, e.version,
              v.zone, ${startMs('o.span')} as start, ${endMs('o.span')} as end
         from visit v ${STANDS} join person w on w.id = e.owner_id where v.entry_id = $1`,
      [entryId],
    )
  ).rows[0] ?? null

/** Who takes part in a meeting beside its organizer: as participants, with what they are here. */
export const participantsOf = async (sql: Sql, entryId: string) =>
  (
    await sql.query<{ id: string; personId: string | null; address: string | null }>(
      'select id, person_id as "personId", guest_address as address from participant where entry_id = $1 and not organizer',
      [entryId],
    )
  ).rows

/** A visit in the list of what became of them. */
interface Line {
  readonly visitId: string
  readonly entryId: string | null
  readonly kind: string
  readonly name: string
  readonly address: string
  readonly host: string
  readonly start: number
  readonly end: number
  readonly stands: boolean
  readonly moves: number
  readonly guests: number
  readonly answers: readonly string[]
  readonly takenAt: Date
}

const MOST_LINES = 500

/** What was taken on somebody's pages, and of their time: the newest first. */
export const visitLines = async (sql: Sql, personId: string): Promise<Line[]> =>
  (
    await sql.query<Line>(
      `select v.id as "visitId", e.id as "entryId", k.terms ->> 'title' as kind, v.name, v.address,
              (select string_agg(w.name, ', ' order by h.number) from unnest(v.hosts) with ordinality h(id, number)
                 join person w on w.id = h.id) as host,
              ${startMs('coalesce(o.span, v.span)')} as start, ${endMs('coalesce(o.span, v.span)')} as end,
              o.id is not null and e.deleted_at is null and e.cancelled_at is null as stands,
              (select count(*) from change c where c.entry_id = e.id and c.kind = 'changed') as moves,
              v.guests, v.answers, v.taken_at as "takenAt"
         from visit v join visit_kind k on k.id = v.kind_id join visit_page p on p.id = k.page_id
         left join entry e on e.id = v.entry_id left join occurrence o on o.entry_id = e.id and o.gone_at is null
        where p.owner_id = $1 or v.hosts @> array[$1]::uuid[]
        order by v.taken_at desc, v.id limit ${MOST_LINES}`,
      [personId],
    )
  ).rows

/** Visits whose visitor is to be reminded, or thanked, by now: each once, at most so many at a time. */
export const takeDue = async (
  sql: Sql,
  which: 'remind' | 'thanks',
  now: number,
  most: number,
): Promise<string[]> =>
  (
    await sql.query<{ id: string }>(
      which === 'remind'
        ? `update visit t set reminded_at = $1 where t.id in (
             select v.id from visit v join visit_kind k on k.id = v.kind_id ${STANDS}
              where v.reminded_at is null and v.thanked_at is null and (k.terms ->> 'remind') is not null and lower(o.span) > $1
                and lower(o.span) - make_interval(mins => (k.terms ->> 'remind')::integer) <= $1
                -- Whoever took it that late knows.
                and v.taken_at < lower(o.span) - make_interval(mins => (k.terms ->> 'remind')::integer)
              limit $2 for update of v skip locked) returning t.id`
        : `update visit t set thanked_at = $1 where t.id in (
             select v.id from visit v join visit_kind k on k.id = v.kind_id ${STANDS}
              where v.thanked_at is null and coalesce(k.terms ->> 'thanks', '') <> '' and upper(o.span) <= $1
                and upper(o.span) > $1::timestamptz - interval '3 days'
              limit $2 for update of v skip locked) returning t.id`,
      [at(now), most],
    )
  ).rows.map((row) => row.id)

/** What a letter to a visitor says. */
export const visitLetter = async (sql: Sql, visitId: string) =>
  (
    await sql.query<{
      name: string
      address: string
      zone: string
      title: string
      host: string
      hostAddress: string
      thanks: string
      start: number
      end: number
      place: string
    }>(
      `select v.name, v.address, v.zone, e.title, w.name as host, w.address as "hostAddress", coalesce(k.terms ->> 'thanks', '') as thanks,
              ${startMs('o.span')} as start, ${endMs('o.span')} as end, e.place
         from visit v join visit_kind k on k.id = v.kind_id ${STANDS} join person w on w.id = e.owner_id where v.id = $1`,
      [visitId],
    )
  ).rows[0] ?? null

/** Visits whose visitor said no by mail: they are cancelled by that, within what is allowed. */
export const declinedVisits = async (sql: Sql, now: number, most: number): Promise<string[]> =>
  (
    await sql.query<{ entryId: string }>(
      `select v.entry_id as "entryId" from visit v ${STANDS}
         cross join lateral (
           select x.answer, x.answered_at from participant x
            where x.entry_id = e.id and x.guest_address = v.address limit 1) p
        where lower(o.span) > $1 and p.answer = 'declined' and p.answered_at > v.taken_at
        order by p.answered_at limit $2`,
      [at(now), most],
    )
  ).rows.map((row) => row.entryId)

/** What is kept for somebody who has to prove their address. */
interface KeptWish {
  readonly kindId: string
  readonly body: unknown
  readonly holds: readonly { readonly id: string; readonly hostId: string }[]
  readonly lapses: number
  readonly answer: unknown
}

/** Keeps what somebody wishes, and gives its id. */
export const insertWish = async (
  sql: Sql,
  wish: Pick<KeptWish, 'kindId' | 'body' | 'holds'> & { readonly until: number },
): Promise<string> =>
  (
    await sql.query<{ id: string }>(
      'insert into visit_wish (kind_id, body, holds, lapses_at) values ($1, $2, $3, $4) returning id',
      [wish.kindId, JSON.stringify(wish.body), JSON.stringify(wish.holds), at(wish.until)],
    )
  ).rows[0]?.id ?? ''

/** A wish, locked until the transaction ends; null where there is none. */
export const lockWish = async (sql: Sql, id: string): Promise<KeptWish | null> =>
  (
    await sql.query<KeptWish>(
      `select kind_id as "kindId", body, holds, ${msSql('lapses_at')} as lapses, answer from visit_wish where id = $1 for update`,
      [id],
    )
  ).rows[0] ?? null

/** Keeps what was answered once a wish was taken. */
export const setWishDone = async (sql: Sql, id: string, answer: unknown): Promise<void> => {
  await sql.query('update visit_wish set answer = $2 where id = $1', [id, JSON.stringify(answer)])
}

/** Forgets wishes a day after they lapsed. */
export const tidyWishes = async (sql: Sql, now: number): Promise<void> => {
  await sql.query("delete from visit_wish where lapses_at < $1::timestamptz - interval '1 day'", [at(now)])
}

/** What the letter to somebody who has to prove their address says. */
export const wishLetter = async (sql: Sql, wishId: string) =>
  (
    await sql.query<{
      body: { name: string; address: string; zone: string; start: string; minutes: number }
      page: string
      kind: string
      title: string
      host: string
      lapses: number
    }>(
      `select w.body, p.slug as page, k.slug as kind, k.terms ->> 'title' as title, p.name as host, ${msSql('w.lapses_at')} as lapses
         from visit_wish w join visit_kind k on k.id = w.kind_id join visit_page p on p.id = k.page_id
        where w.id = $1 and w.answer is null`,
      [wishId],
    )
  ).rows[0] ?? null
