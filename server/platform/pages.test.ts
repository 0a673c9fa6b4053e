import { once } from 'node:events'
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brotliCompressSync } from 'node:zlib'
import Koa from 'koa'
import { expect, it, onTestFinished } from 'vitest'
import { servePages } from './pages.ts'

const serve = async (files: Readonly<Record<string, string | Buffer>>) => {
  const folder = await mkdtemp(join(tmpdir(), 'marmot-pages-'))
  await mkdir(join(folder, 'assets'))
  for (const [name, text] of Object.entries(files)) await writeFile(join(folder, name), text)
  const app = new Koa()
  app.use(await servePages(folder))
  const server = createServer(app.callback()).listen(0, '127.0.0.1')
  await once(server, 'listening')
  onTestFinished(async () => {
    server.close()
    await rm(folder, { recursive: true, force: true })
  })
  const { port } = server.address() as AddressInfo
  const get = (path: string, headers: Record<string, string> = {}) =>
    fetch(`http://127.0.0.1:${port}${path}`, { headers })
  return { folder, get }
}

const SHELL = '<!doctype html><title>Marmot</title>'
const CODE = `export const hello = ${JSON.stringify('hello '.repeat(200))}`

it('goes on serving its pages while a new build takes the files away', async () => {
  const { folder, get } = await serve({ 'index.html': SHELL, 'assets/app-1.js': CODE })
  await rm(folder, { recursive: true })
  for (const headers of [{ 'accept-encoding': 'gzip' }, { 'accept-encoding': 'identity' }]) {
    const answer = await get('/assets/app-1.js', headers)
    expect(answer.status).toBe(200)
    expect(answer.headers.get('content-encoding') === 'gzip').toBe(headers['accept-encoding'] === 'gzip')
    expect(answer.headers.get('cache-control')).toMatch(/immutable/)
    expect(await answer.text()).toBe(CODE)
  }
})

it('gives what the build packed to whoever can unpack it, and no address of its own to the packed file', async () => {
  const { get } = await serve({ 'assets/app-1.js': CODE })
  const again = await serve({ 'assets/app-2.js': CODE, 'assets/app-2.js.br': brotliCompressSync(CODE) })
  for (const [accept, coding] of [
    ['gzip, deflate, br', 'br'],
    ['br;q=0, gzip', 'gzip'],
    ['gzip', 'gzip'],
    ['identity', null],
  ] as const) {
    const answer = await again.get('/assets/app-2.js', { 'accept-encoding': accept })
    expect(answer.headers.get('content-encoding')).toBe(coding)
    expect(answer.headers.get('content-type')).toMatch(/javascript/)
    expect(await answer.text()).toBe(CODE)
  }
  expect((await again.get('/assets/app-2.js.br')).status).toBe(404)
  const unpacked = await get('/assets/app-1.js', { 'accept-encoding': 'br, gzip' })
  expect(unpacked.headers.get('content-encoding')).toBe('gzip')
})

it('says that there is nothing at an address that is neither a file nor the application’s own', async () => {
  const { get } = await serve({ 'index.html': SHELL, 'assets/app-1.js': CODE })
  for (const path of ['/assets/gone-2.js', '/..%2f..%2fetc/passwd', '/nowhere', '/.git/config']) {
    const answer = await get(path)
    expect(answer.status).toBe(404)
    expect(await answer.text()).toContain('nothing at this address')
  }
})

it('gives the application for each of its own addresses, and no file beside the built ones', async () => {
  const { get } = await serve({ 'index.html': SHELL, 'assets/app-1.js': CODE })
  for (const path of ['/', '/arrange?brief=x', '/i/some-token']) {
    const answer = await get(path)
    expect(answer.headers.get('content-type')).toMatch(/html/)
    expect(answer.headers.get('cache-control')).toBe('no-cache')
    expect(await answer.text()).toBe(SHELL)
  }
})

it('says how to build when nothing is built', async () => {
  const { get } = await serve({})
  const answer = await get('/')
  expect(answer.status).toBe(503)
  expect(await answer.text()).toMatch(/npm run build/)
})

it('lets a page to pick a time stand in another site’s frame, and no other page', async () => {
  const { get } = await serve({ 'index.html': SHELL, 'outside.html': SHELL })
  expect((await get('/v/tashi')).headers.get('content-security-policy')).toContain('frame-ancestors *')
  for (const path of ['/i/a-link', '/now'])
    expect((await get(path)).headers.get('content-security-policy') ?? '').not.toContain('frame-ancestors *')
})

it('gives the worker that opens it without a network anew each time, and says what it is to a home screen', async () => {
  const { get } = await serve({
    'index.html': SHELL,
    'worker.js': CODE,
    'app.webmanifest': '{"name":"Marmot"}',
  })
  const worker = await get('/worker.js')
  expect([worker.status, worker.headers.get('cache-control')]).toEqual([200, 'no-cache'])
  expect(worker.headers.get('content-type')).toMatch(/javascript/)
  expect((await get('/app.webmanifest')).headers.get('content-type')).toBe('application/manifest+json')
})
