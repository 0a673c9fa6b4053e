import type { DueTodo, Todo } from '@marmot/contract/todo'
import { instantText } from '@marmot/core/time'
import { at, endMs, type Sql, startMs, together, wallSql } from '../platform/database.ts'

/** What is kept of a to-do, besides whose it is. Walls as `YYYY-MM-DDTHH:mm`. */
export type TodoState = Pick<
  Todo,
  | 'title'
  | 'note'
  | 'due'
  | 'dueAllDay'
  | 'zone'
  | 'minutes'
  | 'categoryId'
  | 'priority'
  | 'percent'
  | 'done'
  | 'givenTo'
>

/** A to-do as it is kept. */
export interface KeptTodo extends TodoState {
  readonly id: string
  readonly ownerId: string
  readonly version: number
  readonly deleted: boolean
}

/** The name PostgreSQL gives the refusal of a to-do that came from a file and is there again. */
export const SOURCE_TAKEN = 'todo_source'

/** More than these nobody is shown at once. */
export const MOST_TODOS = 5000

const STATE = `t.title, t.note, ${wallSql('t.due')} as due, t.due_all_day as "dueAllDay", t.zone, t.minutes, t.priority,
  t.percent, t.done_at is not null as done, t.given_to as "givenTo"`

/**
 * A to-do as $1 sees it, but for the time set aside for it: its category is its owner's own. Names are looked up one by one: joined,
 * they made PostgreSQL read all 5,000 people for a list of thirty.
 */
const SEEN_ALONE = `select t.id, t.owner_id as "ownerId", (select o.name from person o where o.id = t.owner_id) as owner,
    (select g.name from person g where g.id = t.given_to) as given, t.done_at as "doneAt", t.version, ${STATE},
    case when t.owner_id = $1 then t.category_id end as "categoryId"`

/** The same with the time that whoever looks has set aside for it. */
const SEEN = `${SEEN_ALONE},
    coalesce((select json_agg(json_build_object('entryId', e.id, 'recurrence', ${wallSql('c.recurrence')},
                'start', to_char(lower(c.span) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'),
                'end', to_char(upper(c.span) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')) order by lower(c.span))
       from entry e join occurrence c on c.entry_id = e.id and c.gone_at is null
      where e.todo_id = t.id and e.owner_id = $1 and e.deleted_at is null), '[]') as times
  from todo t`

type Row = Omit<Todo, 'doneAt'> & { readonly doneAt: Date | null }

const onWire = (row: Row): Todo => ({ ...row, doneAt: row.doneAt?.toISOString() ?? null })

/**
 * The to-dos that are somebody's own, or were given to them: all that are open, and those done since an instant, newest first, at
 * most `MOST_TODOS` and one more, by which one sees that there are others.
 */
export const readTodos = async (sql: Sql, personId: string, doneSince: number): Promise<Todo[]> => {
  const LATELY = 't.deleted_at is null and (t.done_at is null or t.done_at >= $2)'
  const values = [personId, at(doneSince)]
  // The time set aside is asked for all of them at once: looked up for each of thousands it took a third of the whole.
  const [rows, set] = await together([
    sql.query<Omit<Row, 'times'>>(
      `with mine as (
         select t.id from todo t where t.owner_id = $1 and ${LATELY}
         union
         select t.id from todo t where t.given_to = $1 and ${LATELY})
       ${SEEN_ALONE} from todo t join mine m on m.id = t.id
        order by t.done_at desc nulls first, t.due, t.created_at, t.id limit ${MOST_TODOS + 1}`,
      values,
    ),
    sql.query<{ todoId: string; entryId: string; recurrence: string; start: number; end: number }>(
      `select e.todo_id as "todoId", e.id as "entryId", ${wallSql('c.recurrence')} as recurrence,
              ${startMs('c.span')} as start, ${endMs('c.span')} as end
         from entry e join occurrence c on c.entry_id = e.id and c.gone_at is null join todo t on t.id = e.todo_id
        where e.owner_id = $1 and e.todo_id is not null and e.deleted_at is null and ${LATELY}
        order by lower(c.span) limit ${MOST_TIMES}`,
      values,
    ),
  ])
  const times = new Map<string, Todo['times']>()
  for (const { todoId, entryId, recurrence, start, end } of set.rows) {
    const one = { entryId, recurrence, start: instantText(start), end: instantText(end) }
    const known = times.get(todoId)
    if (known) known.push(one)
    else times.set(todoId, [one])
  }
  return rows.rows.map((row) => onWire({ ...row, times: times.get(row.id) ?? [] }))
}

/** What somebody has to do that is open and due by an instant, or was due before; the nearest, at most so many. */
export const dueTodos = async (sql: Sql, personId: string, by: number, most: number): Promise<Todo[]> => {
  const rows = await sql.query<Row>(
    `with mine as (
       select id from todo where owner_id = $1 and given_to is null and deleted_at is null and done_at is null
       union all
       select id from todo where given_to = $1 and deleted_at is null and done_at is null)
     ${SEEN} join mine m on m.id = t.id
      where t.due at time zone t.zone <= $2
      order by t.due, t.priority = 0, t.priority, t.created_at limit $3`,
    [personId, at(by), most],
  )
  return rows.rows.map(onWire)
}

/** Of the time that was set aside for them so many dates are told, the earliest. */
const MOST_TIMES = 4 * MOST_TODOS

/** More than these nobody is shown beside their days. */
const MOST_DUE = 1000

/**
 * What somebody has to do that is open and due within a range, in order; a day to each side as well, since a day or a time on a clock
 * somewhere is not yet an instant.
 */
export const dueBetween = async (sql: Sql, personId: string, from: number, to: number): Promise<DueTodo[]> =>
  (
    await sql.query<DueTodo>(
      `with mine as (
         select * from todo where owner_id = $1 and given_to is null and deleted_at is null and done_at is null
         union all
         select * from todo where given_to = $1 and deleted_at is null and done_at is null)
       select id, title, ${wallSql('due')} as due, due_all_day as "dueAllDay", zone,
              case when owner_id = $1 then category_id end as "categoryId"
         from mine where due between $2::timestamp - interval '1 day' and $3::timestamp + interval '1 day'
        order by mine.due, created_at limit ${MOST_DUE}`,
      [personId, instantText(from), instantText(to)],
    )
  ).rows

/** What somebody has or had to do whose words begin so: the open ones first, the nearest of them first. */
export const findTodos = async (
  sql: Sql,
  personId: string,
  words: readonly string[],
  most: number,
): Promise<Todo[]> => {
  const asked = words
    .map((_, i) => `to_tsquery('simple', quote_literal(plain($${i + 3}::text)) || ':*')`)
    .join(' && ')
  const rows = await sql.query<Row>(
    `with mine as (
       select id, words from todo where owner_id = $1 and deleted_at is null
       union all
       select id, words from todo where given_to = $1 and deleted_at is null)
     ${SEEN} join mine m on m.id = t.id where m.words @@ (${asked})
      order by t.done_at desc nulls first, t.due, t.created_at limit $2`,
    [personId, most, ...words],
  )
  return rows.rows.map(onWire)
}

/** A to-do as somebody sees it; null where it is neither theirs nor given to them. */
export const readTodo = async (sql: Sql, todoId: string, personId: string): Promise<Todo | null> => {
  const rows = await sql.query<Row>(
    `${SEEN} where t.id = $2 and t.deleted_at is null and (t.owner_id = $1 or t.given_to = $1)`,
    [personId, todoId],
  )
  const [row] = rows.rows
  return row ? onWire(row) : null
}

/** A to-do, locked until the transaction ends. */
export const lockTodo = async (sql: Sql, todoId: string): Promise<KeptTodo | null> => {
  const rows = await sql.query<KeptTodo>(
    `select t.id, t.owner_id as "ownerId", t.version, t.deleted_at is not null as deleted, t.category_id as "categoryId", ${STATE}
       from todo t where t.id = $1 for update`,
    [todoId],
  )
  return rows.rows[0] ?? null
}

const values = (state: TodoState, doneAt: number) => [
  state.title,
  state.note,
  state.due,
  state.dueAllDay,
  state.zone,
  state.minutes,
  state.categoryId,
  state.priority,
  state.done ? 100 : state.percent,
  state.done ? at(doneAt) : null,
  state.givenTo,
]

/** Makes a to-do; the category is one of its owner's, or none. */
export const insertTodo = async (
  sql: Sql,
  ownerId: string,
  state: TodoState,
  now: number,
): Promise<string> => {
  const rows = await sql.query<{ id: string }>(
    `insert into todo (owner_id, uid, title, note, due, due_all_day, zone, minutes, category_id, priority, percent, done_at, given_to, created_at, changed_at)
     values ($12, gen_random_uuid()::text, $1, $2, $3, $4, $5, $6, (select id from category where id = $7 and person_id = $12), $8, $9, $10, $11, $13, $13)
     returning id`,
    [...values(state, now), ownerId, at(now)],
  )
  return rows.rows[0]?.id ?? ''
}

/** Changes a to-do, which has another version then. When it was done stays, where it was done before. */
export const updateTodo = async (sql: Sql, todoId: string, state: TodoState, now: number): Promise<void> => {
  await sql.query(
    `update todo set title = $1, note = $2, due = $3, due_all_day = $4, zone = $5, minutes = $6,
        category_id = (select c.id from category c where c.id = $7 and c.person_id = todo.owner_id), priority = $8, percent = $9,
        done_at = case when $10::timestamptz is null then null else coalesce(done_at, $10) end, given_to = $11,
        version = version + 1, changed_at = $13
      where id = $12`,
    [...values(state, now), todoId, at(now)],
  )
}

/** Deletes a to-do, or brings it back. */
export const setTodoDeleted = async (sql: Sql, todoId: string, deletedAt: number | null, now: number) => {
  await sql.query('update todo set deleted_at = $2, version = version + 1, changed_at = $3 where id = $1', [
    todoId,
    deletedAt === null ? null : at(deletedAt),
    at(now),
  ])
}
