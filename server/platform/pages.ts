import { readdir, readFile, stat } from 'node:fs/promises'
import { extname, join, relative, sep } from 'node:path'
import { promisify } from 'node:util'
import { gzip } from 'node:zlib'
import type { Middleware } from 'koa'

const TYPES: Record<string, string> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
}

const pack = promisify(gzip)

interface Built {
  readonly type: string
  readonly plain: Buffer
  readonly packed: Buffer | null
}

/**
 * The built files by their path in the address bar, read and compressed once. They fit into a few megabytes, no request
 * can name a file outside, and a build that is made while the server runs takes nothing from under it.
 */
const readFiles = async (folder: string): Promise<Map<string, Built>> => {
  const names = await readdir(folder, { recursive: true }).catch(() => [])
  const files = new Map<string, Built>()
  for (const name of names) {
    const path = join(folder, name)
    if (!(await stat(path)).isFile()) continue
    const plain = await readFile(path)
    const type = extname(path)
    files.set(`/${relative(folder, path).split(sep).join('/')}`, {
      type: TYPES[type] ?? 'application/octet-stream',
      plain,
      packed: type === '.woff2' ? null : await pack(plain),
    })
  }
  return files
}

/** Serves the built web application; every other path outside /api is the application's own to route. */
export const servePages = async (folder: string): Promise<Middleware> => {
  const files = await readFiles(folder)
  const shell = files.get('/index.html')?.plain.toString() ?? null
  return async (context, next) => {
    if ((context.method !== 'GET' && context.method !== 'HEAD') || context.path.startsWith('/api/'))
      return next()
    const file = files.get(context.path)
    if (file && context.path !== '/index.html') {
      context.set('content-type', file.type)
      // Built names carry a hash of their contents.
      context.set(
        'cache-control',
        context.path.startsWith('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache',
      )
      context.vary('Accept-Encoding')
      const packed = context.acceptsEncodings('gzip') === 'gzip' ? file.packed : null
      if (packed) context.set('content-encoding', 'gzip')
      context.body = packed ?? file.plain
      return
    }
    context.set('cache-control', 'no-cache')
    context.type = 'html'
    context.status = shell ? 200 : 503
    context.body = shell ?? 'Marmot is not built yet. Run: npm run build'
  }
}
