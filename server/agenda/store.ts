import { addItem, agendaText, readAgenda } from '@marmot/core/agenda'
import * as Y from 'yjs'
import { type Sql, together, wallSql } from '../platform/database.ts'

/** An agenda as it is kept: what was added up, and the updates since with their numbers. */
interface KeptAgenda {
  readonly document: Buffer | null
  readonly updates: readonly { readonly number: number; readonly document: Buffer }[]
}

const readKept = async (sql: Sql, occurrenceId: string): Promise<KeptAgenda> => {
  // The updates first: what is added up between the two is then in both, which does no harm.
  const [updates, kept] = await together([
    sql.query<{ number: number; document: Buffer }>(
      'select number, document from agenda_update where occurrence_id = $1 order by number',
      [occurrenceId],
    ),
    sql.query<{ document: Buffer }>('select document from agenda where occurrence_id = $1', [occurrenceId]),
  ])
  return { document: kept.rows[0]?.document ?? null, updates: updates.rows }
}

const documentOf = ({ document, updates }: KeptAgenda): Y.Doc => {
  const whole = new Y.Doc()
  whole.transact(() => {
    if (document) Y.applyUpdate(whole, document)
    for (const update of updates) Y.applyUpdate(whole, update.document)
  })
  return whole
}

/** The agenda of a date, with all that was ever written in it; an empty one where nothing was. */
export const readDocument = async (sql: Sql, occurrenceId: string): Promise<Y.Doc> =>
  documentOf(await readKept(sql, occurrenceId))

/** The updates of some numbers. */
export const readUpdates = async (sql: Sql, numbers: readonly number[]): Promise<Buffer[]> =>
  (
    await sql.query<{ document: Buffer }>('select document from agenda_update where number = any($1)', [
      numbers,
    ])
  ).rows.map((row) => row.document)

/** Keeps an update, and gives its number. Null when the date is not there any more. */
export const insertUpdate = async (
  sql: Sql,
  occurrenceId: string,
  update: Uint8Array,
): Promise<number | null> =>
  (
    await sql.query<{ number: number }>(
      `insert into agenda_update (occurrence_id, document) select o.id, $2 from occurrence o where o.id = $1 returning number`,
      [occurrenceId, Buffer.from(update)],
    )
  ).rows[0]?.number ?? null

/** Begins the agenda of a date of a meeting with some points. */
export const startAgenda = async (
  sql: Sql,
  { entryId, recurrence }: { readonly entryId: string; readonly recurrence: string },
  items: readonly { readonly title: string; readonly who: string; readonly minutes: number | null }[],
): Promise<void> => {
  if (items.length === 0) return
  const document = new Y.Doc()
  for (const [i, item] of items.entries()) addItem(document, `first-${i + 1}`, item)
  await sql.query(
    `insert into agenda (occurrence_id, document, text)
     select o.id, $3, $4 from occurrence o where o.entry_id = $1 and o.recurrence = $2`,
    [entryId, recurrence, Buffer.from(Y.encodeStateAsUpdate(document)), agendaText(readAgenda(document))],
  )
}

/** What the agendas of some dates of a meeting say, as text, by the names of the dates; those that say nothing are left out. */
export const agendaTexts = async (
  sql: Sql,
  entryId: string,
  recurrences: readonly string[],
): Promise<ReadonlyMap<string, string>> => {
  const rows = await sql.query<{ id: string; recurrence: string; text: string; written: boolean }>(
    `select o.id, ${wallSql('o.recurrence')} as recurrence, coalesce(a.text, '') as text, w.written
       from occurrence o left join agenda a on a.occurrence_id = o.id
       cross join lateral (
         select exists (select 1 from agenda_update u where u.occurrence_id = o.id) as written) w
      where o.entry_id = $1 and o.recurrence = any($2::timestamp[]) and (a.text <> '' or w.written)`,
    [entryId, recurrences],
  )
  const texts = new Map<string, string>()
  for (const { id, recurrence, text, written } of rows.rows)
    texts.set(recurrence, written ? agendaText(readAgenda(await readDocument(sql, id))) : text)
  return texts
}

/** Adds up what was written in an agenda since the last time, and gives whose it is; null where nothing was. In a transaction. */
export const settle = async (sql: Sql, occurrenceId: string): Promise<string | null> => {
  const there = await sql.query(
    'insert into agenda (occurrence_id) select id from occurrence where id = $1 on conflict do nothing',
    [occurrenceId],
  )
  if (there.rowCount === 0)
    await sql.query('select 1 from agenda where occurrence_id = $1 for update', [occurrenceId])
  const kept = await readKept(sql, occurrenceId)
  if (kept.updates.length === 0) return null
  const document = documentOf(kept)
  await sql.query('update agenda set document = $2, text = $3 where occurrence_id = $1', [
    occurrenceId,
    Buffer.from(Y.encodeStateAsUpdate(document)),
    agendaText(readAgenda(document)),
  ])
  await sql.query('delete from agenda_update where occurrence_id = $1 and number = any($2)', [
    occurrenceId,
    kept.updates.map((one) => one.number),
  ])
  const rows = await sql.query<{ entryId: string }>(
    'select entry_id as "entryId" from occurrence where id = $1',
    [occurrenceId],
  )
  return rows.rows[0]?.entryId ?? null
}

/** Dates in whose agendas something was written that is not added up. */
export const unsettled = async (sql: Sql, most: number): Promise<string[]> =>
  (
    await sql.query<{ id: string }>('select distinct occurrence_id as id from agenda_update limit $1', [most])
  ).rows.map((row) => row.id)
