import { createReadStream } from 'node:fs'
import { readdir, readFile, stat } from 'node:fs/promises'
import { extname, join, relative, sep } from 'node:path'
import { createGzip } from 'node:zlib'
import type { Middleware } from 'koa'

const TYPES: Record<string, string> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
}

/** The built files by their path in the address bar. Found once, so no request can name a file outside. */
const listFiles = async (folder: string): Promise<Map<string, string>> => {
  const names = await readdir(folder, { recursive: true }).catch(() => [])
  const files = new Map<string, string>()
  for (const name of names) {
    const path = join(folder, name)
    if ((await stat(path)).isFile()) files.set(`/${relative(folder, path).split(sep).join('/')}`, path)
  }
  return files
}

/** Serves the built web application; every other path outside /api is the application's own to route. */
export const servePages = async (folder: string): Promise<Middleware> => {
  const files = await listFiles(folder)
  const shell = await readFile(join(folder, 'index.html'), 'utf8').catch(() => null)
  return async (context, next) => {
    if ((context.method !== 'GET' && context.method !== 'HEAD') || context.path.startsWith('/api/'))
      return next()
    const path = files.get(context.path)
    if (path && context.path !== '/index.html') {
      const type = extname(path)
      context.set('content-type', TYPES[type] ?? 'application/octet-stream')
      // Built names carry a hash of their contents.
      context.set(
        'cache-control',
        context.path.startsWith('/assets/') ? 'public, max-age=31536000, immutable' : 'no-cache',
      )
      const packed = type !== '.woff2' && context.acceptsEncodings('gzip') === 'gzip'
      if (packed) context.set('content-encoding', 'gzip')
      context.body = packed ? createReadStream(path).pipe(createGzip()) : createReadStream(path)
      return
    }
    context.set('cache-control', 'no-cache')
    context.type = 'html'
    context.status = shell ? 200 : 503
    context.body = shell ?? 'Marmot is not built yet. Run: npm run build'
  }
}
