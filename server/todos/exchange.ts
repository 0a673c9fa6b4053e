import type { CalendarTodo } from '@marmot/core/feeds'
import { wallFromText, wallText } from '@marmot/core/time'
import { at, msSql, type Sql, wallSql } from '../platform/database.ts'
import { tellTodos } from '../platform/live.ts'

/** A to-do as it goes out, with its id here. */
export interface KnownTodo {
  readonly id: string
  readonly todo: CalendarTodo
}

type Row = Omit<CalendarTodo, 'due'> & { readonly id: string; readonly due: string | null }

/** Somebody's own to-dos as calendars have them: all, or those of the given UIDs. */
export const todosOf = async (
  sql: Sql,
  ownerId: string,
  uids: readonly string[] | null = null,
): Promise<KnownTodo[]> => {
  const rows = await sql.query<Row>(
    `select t.id, coalesce(t.source_uid, t.uid) as uid, t.title, t.note, ${wallSql('t.due')} as due, t.due_all_day as "dueAllDay",
            t.zone, t.minutes, t.priority, t.percent, t.done_at is not null as done, ${msSql('t.done_at')} as "doneAt", c.name as category,
            t.source_sequence as sequence, ${msSql('t.source_stamp')} as stamp
       from todo t left join category c on c.id = t.category_id
      where t.owner_id = $1 and t.deleted_at is null and ($2::text[] is null or coalesce(t.source_uid, t.uid) = any($2))
      order by t.due nulls last, t.created_at, t.id`,
    [ownerId, uids],
  )
  return rows.rows.map(({ id, due, ...todo }) => ({
    id,
    todo: { ...todo, due: due === null ? null : wallFromText(due) },
  }))
}

/** A to-do from a calendar as the columns of `todo`; whose it is, and its category by name, are the caller's. */
const rowOf = (todo: CalendarTodo, categories: ReadonlyMap<string, string>) => ({
  title: todo.title,
  note: todo.note,
  due: todo.due === null ? null : wallText(todo.due),
  due_all_day: todo.due === null || todo.dueAllDay,
  zone: todo.zone,
  minutes: todo.minutes,
  category_id: todo.category === null ? null : (categories.get(todo.category) ?? null),
  priority: todo.priority,
  percent: todo.done ? 100 : todo.percent,
  source_sequence: todo.sequence,
  source_stamp: todo.stamp === null ? null : at(todo.stamp),
})

const COLUMNS =
  'title, note, due, due_all_day, zone, minutes, category_id, priority, percent, done_at, source_sequence, source_stamp'

/** Writes new to-dos from a calendar, in one statement, and keeps that a change made them. */
export const insertTodos = async (
  sql: Sql,
  ownerId: string,
  todos: readonly CalendarTodo[],
  categories: ReadonlyMap<string, string>,
  changeId: string,
  now: number,
): Promise<void> => {
  const rows = todos.map((todo) => ({
    ...rowOf(todo, categories),
    source_uid: todo.uid,
    done_at: todo.done ? at(todo.doneAt ?? now) : null,
  }))
  await sql.query(
    `with made as (
       insert into todo (owner_id, uid, source_uid, created_at, changed_at, ${COLUMNS})
       select $1, gen_random_uuid()::text, r.source_uid, $2, $2, ${COLUMNS.replace(/\w+/g, 'r.$&')}
         from jsonb_populate_recordset(null::todo, $3::jsonb) r returning id)
     insert into todo_change (change_id, todo_id, version) select $4, id, 1 from made`,
    [ownerId, at(now), JSON.stringify(rows), changeId],
  )
}

/** Changes a to-do to what a calendar says of it, and keeps how it was. */
export const changeTodoTo = async (
  sql: Sql,
  todoId: string,
  todo: CalendarTodo,
  categories: ReadonlyMap<string, string>,
  changeId: string,
  now: number,
): Promise<void> => {
  await sql.query(
    `insert into todo_change (change_id, todo_id, version, was) select $1, id, version + 1, to_jsonb(t) - 'words' from todo t where id = $2`,
    [changeId, todoId],
  )
  const row = { ...rowOf(todo, categories), done_at: todo.done ? at(todo.doneAt ?? now) : null }
  await sql.query(
    `update todo t set (${COLUMNS}) = (select ${COLUMNS.replace(/\w+/g, 'r.$&')} from jsonb_populate_record(t, $2::jsonb) r),
        version = version + 1, changed_at = $3 where t.id = $1`,
    [todoId, JSON.stringify(row), at(now)],
  )
}

/** Takes back what a change of somebody's did to their to-dos, as an import does, but for those that were changed since. */
export const undoTodos = async (sql: Sql, changeId: string, ownerId: string, now: number): Promise<void> => {
  const gone = await sql.query(
    `update todo t set deleted_at = $2, version = t.version + 1, changed_at = $2 from todo_change c
      where c.change_id = $1 and c.todo_id = t.id and c.was is null and c.version = t.version and t.deleted_at is null`,
    [changeId, at(now)],
  )
  const back = await sql.query(
    `update todo t set (${COLUMNS}) = (select ${COLUMNS.replace(/\w+/g, 'r.$&')}
          from jsonb_populate_record(t, jsonb_set(c.was, '{category_id}',
            coalesce((select to_jsonb(g.id) from category g where g.id::text = c.was ->> 'category_id'), 'null'))) r),
        version = t.version + 1, changed_at = $2 from todo_change c
      where c.change_id = $1 and c.todo_id = t.id and c.was is not null and c.version = t.version`,
    [changeId, at(now)],
  )
  if ((gone.rowCount ?? 0) + (back.rowCount ?? 0) > 0) await tellTodos(sql, [ownerId])
}
