import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterEach, describe, expect, it } from 'vitest'
import { circles, sharedTables, strayQueries } from './owners.mjs'

const made = []
afterEach(() => {
  for (const folder of made.splice(0)) rmSync(folder, { recursive: true })
})

/** A server of so many files, by their paths. */
const house = (files) => {
  const root = mkdtempSync(join(tmpdir(), 'marmot-house-'))
  made.push(root)
  const tables = 'create table entry (id uuid);\ncreate table mail (id uuid);\n'
  for (const [path, text] of Object.entries({ 'migrations/001.sql': tables, ...files })) {
    mkdirSync(dirname(join(root, path)), { recursive: true })
    writeFileSync(join(root, path), text)
  }
  return root
}

describe('a table that two folders write', () => {
  it.each([
    'insert into entry (id) values ($1)',
    'update entry e set title = $2',
    'with gone as (delete from entry where id = $1 returning id) select * from gone',
    'merge into entry using d on true when matched then delete',
    'copy entry (id) from stdin',
    'UPDATE ONLY "entry" SET title = $2',
  ])('is found: %s', (sql) => {
    const root = house({
      'entries/store.ts': 'sql.query(`insert into entry (id) values ($1)`)',
      'holds/store.ts': `sql.query(\`${sql}\`)`,
    })
    expect(sharedTables(root).shared).toEqual([
      { table: 'entry', by: ['entries/store.ts', 'holds/store.ts'] },
    ])
  })

  it('is none when one only reads it, locks it, or speaks of it', () => {
    const root = house({
      'entries/store.ts':
        'sql.query(`insert into entry (id) values ($1) on conflict (id) do update set title = $2`)',
      'entries/more.ts': 'sql.query("update entry set title = $2")',
      'mail/store.ts':
        '/** Others update entry rows. */\nsql.query(`select 1 from entry for update`)\nsql.query(`insert into mail (id) select id from entry`)',
    })
    expect(sharedTables(root)).toEqual({ tables: 2, shared: [] })
  })
})

it('a route that asks the database itself is found, and a store that does is not', () => {
  const root = house({
    'entries/routes.ts': 'mount(readEntry, () => pool.query<{ id: string }>("select 1"))',
    'entries/tasks.ts': 'task: (payload) => pool.query("select 1")',
    'entries/store.ts': 'export const read = (sql) => sql.query("select 1")',
  })
  expect(strayQueries(root)).toEqual(['entries/routes.ts', 'entries/tasks.ts'])
})

describe('domains that ask one another in a circle', () => {
  it('are found, however long it is, also by an import that waits', () => {
    const root = house({
      'a/index.ts': "import { b } from '../b/index.ts'",
      'b/index.ts': "export * from '../c/index.ts'",
      'c/index.ts': "const a = () => import('../a/index.ts')",
    })
    expect(circles(root).circles).toEqual([
      ['a → b (a/index.ts)', 'b → c (b/index.ts)', 'c → a (c/index.ts)'],
    ])
  })

  it('are none where all ask downward, and a test may ask anybody', () => {
    const root = house({
      'a/index.ts': "import { b } from '../b/index.ts'\nimport { c } from '../c/index.ts'",
      'b/index.ts': "import { c } from '../c/index.ts'",
      'c/index.ts': 'export const c = 1',
      'c/index.test.ts': "import { a } from '../a/index.ts'",
    })
    expect(circles(root).circles).toEqual([])
  })
})
