// Holds two rules of the house that imports alone do not show. A table is written by one folder of the server: read in
// the SQL of its sources. Domains, in `server/` and in `web/`, ask one another in one direction only: never in a circle.
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
/** So few would mean that nothing was read. */
const LEAST_TABLES = 20
const LEAST_DOMAINS = 8

const sourcesOf = (folder) =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name)
    if (statSync(path).isDirectory()) return name === 'dist' || name === 'node_modules' ? [] : sourcesOf(path)
    return /\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name) ? [path] : []
  })

/** The domain that a file is in: the first folder below the layer; '' for a file of the layer itself. */
const domainOf = (layer, path) => {
  const [first, ...more] = relative(layer, path).split('/')
  return more.length ? first : ''
}

const WRITES =
  /\b(?:insert\s+into|update|delete\s+from|merge\s+into|truncate(?:\s+table)?|copy)\s+(?:only\s+)?"?([a-z_]+)"?/gi
/** Strings and templates of a source: where its SQL is. A comment's words are not. */
const STRINGS = /`(?:[^`\\]|\\.)*`|'(?:[^'\\\n]|\\.)*'|"(?:[^"\\\n]|\\.)*"/g

const tablesOf = (migrations) =>
  new Set(
    readdirSync(migrations).flatMap((name) =>
      [...readFileSync(join(migrations, name), 'utf8').matchAll(/^create table (\w+)/gm)].map(
        (found) => found[1],
      ),
    ),
  )

/** Which tables are written by more than one folder of a server, each with the files that write it. */
export const sharedTables = (server) => {
  const tables = tablesOf(join(server, 'migrations'))
  const writers = new Map([...tables].map((table) => [table, new Map()]))
  for (const path of sourcesOf(server)) {
    const domain = domainOf(server, path)
    if (domain === 'testing') continue
    const code = readFileSync(path, 'utf8').replace(/\/\*[\s\S]*?\*\/|^\s*\/\/.*$/gm, '')
    for (const [text] of code.matchAll(STRINGS))
      for (const [, table] of text.matchAll(WRITES)) writers.get(table)?.set(domain, relative(server, path))
  }
  return {
    tables: [...writers].filter(([, by]) => by.size > 0).length,
    shared: [...writers]
      .filter(([, by]) => by.size > 1)
      .map(([table, by]) => ({ table, by: [...by.values()] })),
  }
}

/** SQL outside of stores: routes and tasks ask a store. */
export const strayQueries = (server) =>
  sourcesOf(server)
    .filter(
      (path) => /(?:routes|tasks|app|domain|index)\.ts$/.test(path) && domainOf(server, path) !== 'testing',
    )
    .filter((path) => /\.query(?:<[^(]*>)?\(/.test(readFileSync(path, 'utf8')))
    .map((path) => relative(server, path))

const IMPORTS = /(?:from|import)\s*\(?\s*'(\.[^']+)'/g

/** Which domains of a layer ask one another in a circle, each circle once, with a file for each of its steps. */
export const circles = (layer) => {
  const asks = new Map()
  for (const path of sourcesOf(layer)) {
    const from = domainOf(layer, path)
    if (from === '' || from === 'testing') continue
    if (!asks.has(from)) asks.set(from, new Map())
    for (const [, target] of readFileSync(path, 'utf8').matchAll(IMPORTS)) {
      const to = domainOf(layer, resolve(dirname(path), target))
      if (to !== '' && to !== from && to !== 'testing' && !to.startsWith('..'))
        asks.get(from).set(to, relative(layer, path))
    }
  }
  const found = []
  const ended = new Set()
  const walk = (domain, way) => {
    const at = way.indexOf(domain)
    if (at >= 0) {
      const circle = [...way.slice(at), domain]
      found.push(circle.slice(1).map((to, i) => `${circle[i]} → ${to} (${asks.get(circle[i]).get(to)})`))
      return
    }
    if (ended.has(domain)) return
    for (const to of asks.get(domain)?.keys() ?? []) walk(to, [...way, domain])
    ended.add(domain)
  }
  for (const domain of asks.keys()) walk(domain, [])
  return { domains: asks.size, circles: found }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const { tables, shared } = sharedTables(join(root, 'server'))
  const stray = strayQueries(join(root, 'server'))
  const layers = ['server', 'web'].map((layer) => ({ layer, ...circles(join(root, layer)) }))
  for (const { table, by } of shared)
    console.error(`The table ${table} is written by several: ${by.join(', ')}`)
  for (const path of stray) console.error(`SQL belongs in a store: server/${path}`)
  for (const { layer, circles: all } of layers)
    for (const circle of all) console.error(`Domains of ${layer} in a circle: ${circle.join(', ')}`)
  const domains = layers.map(({ layer, domains }) => `${domains} domains of ${layer}`).join(', ')
  console.log(`owners: ${tables} tables, ${shared.length} of several folders; ${domains}`)
  const few = tables < LEAST_TABLES || layers.some((one) => one.domains < LEAST_DOMAINS)
  if (few) console.error('Too little was read for this check to mean anything.')
  process.exit(few || shared.length || stray.length || layers.some((one) => one.circles.length) ? 1 : 0)
}
