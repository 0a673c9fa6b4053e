import { readdir, readFile, stat } from 'node:fs/promises'
import { extname, join, relative, sep } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { gzip } from 'node:zlib'
import { listNow } from '@marmot/contract/now'
import { OUTSIDE_PAGES, PAGES } from '@marmot/contract/pages'
import { whoAmI } from '@marmot/contract/people'
import type { Middleware } from 'koa'
import { FRAMED } from './guard.ts'

const TYPES: Record<string, string> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.png': 'image/png',
  '.webmanifest': 'application/manifest+json',
  '.woff2': 'font/woff2',
}

const pack = promisify(gzip)

const NOTHING =
  '<!doctype html><html lang="en"><title>Nothing here</title><p>There is nothing at this address. <a href="/now">Go to Marmot</a></p></html>'

/** The smallest first: a browser names all that it can unpack, in no order that means anything. */
const CODINGS = ['br', 'gzip'] as const

interface Built {
  readonly type: string
  readonly plain: Buffer
  /** By the coding's name. */
  readonly packed: Partial<Record<(typeof CODINGS)[number], Buffer>>
}

/**
 * The built files by their path in the address bar, read once, packed by the build or here. They fit into a few megabytes,
 * no request can name a file outside, and a build that is made while the server runs takes nothing from under it.
 */
const readFiles = async (folder: string): Promise<Map<string, Built>> => {
  const names = await readdir(folder, { recursive: true }).catch(() => [])
  const files = new Map<string, Built>()
  for (const name of names) {
    const path = join(folder, name)
    const type = extname(path)
    if (type === '.br' || !(await stat(path)).isFile()) continue
    const plain = await readFile(path)
    const br = await readFile(`${path}.br`).catch(() => null)
    files.set(`/${relative(folder, path).split(sep).join('/')}`, {
      type: TYPES[type] ?? 'application/octet-stream',
      plain,
      packed: type === '.woff2' ? {} : { gzip: await pack(plain), ...(br ? { br } : {}) },
    })
  }
  return files
}

const own: ReadonlySet<string> = new Set(PAGES)
const outside: ReadonlySet<string> = new Set(OUTSIDE_PAGES)

/** What the first screen asks for at once (RFC 8288). */
const AHEAD = [whoAmI.path, listNow.path]
  .map((path) => `<${path}>; rel=preload; as=fetch; crossorigin`)
  .join(', ')

/** Where the web application is built, seen from here as from the built server. */
export const WEB = fileURLToPath(new URL('../../web/dist', import.meta.url))

/** Serves the built web application: its files, and the page for the addresses that are its own. Nothing else is there. */
export const servePages = async (folder: string): Promise<Middleware> => {
  const files = await readFiles(folder)
  const shell = files.get('/index.html')?.plain.toString() ?? null
  const door = files.get('/outside.html')?.plain.toString() ?? null
  return async (context, next) => {
    if ((context.method !== 'GET' && context.method !== 'HEAD') || context.path.startsWith('/api/'))
      return next()
    const file = files.get(context.path)
    if (file && !context.path.endsWith('.html')) {
      context.set('content-type', file.type)
      // Built names carry a hash of their contents.
      context.set(
        'cache-control',
        context.path.startsWith('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache',
      )
      context.vary('Accept-Encoding')
      const coding = CODINGS.find((each) => file.packed[each] && context.acceptsEncodings(each) === each)
      if (coding) context.set('content-encoding', coding)
      context.body = (coding && file.packed[coding]) ?? file.plain
      return
    }
    context.set('cache-control', 'no-cache')
    context.type = 'html'
    const [, first = ''] = context.path.split('/')
    if (first !== '' && !own.has(first) && !outside.has(first)) {
      context.status = 404
      context.body = NOTHING
      return
    }
    const page = outside.has(first) ? door : shell
    // What the first screen asks for is on its way before its code is; whoever comes with no cookie is not signed in.
    if ((first === '' || first === 'now') && context.get('cookie') !== '') context.set('link', AHEAD)
    // On a page to pick a time one is nobody: it may stand in another site's frame.
    if (first === 'v') context.set('content-security-policy', FRAMED)
    context.status = page ? 200 : 503
    context.body = page ?? 'Marmot is not built yet. Run: npm run build'
  }
}
