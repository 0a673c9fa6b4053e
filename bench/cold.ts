import { spawn } from 'node:child_process'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Cookie } from '@playwright/test'
import { WebSocket } from 'ws'
import config from '../e2e/playwright.config.ts'
import { met } from './measuring.ts'

/** Until the first screen shows its content, with nothing in the cache: here, and with a processor four times slower. */
const COLD = [
  { name: 'cold start', slower: 1, budget: 800 },
  { name: 'cold start, slow', slower: 4, budget: 1500 },
] as const
const ROUNDS = 7
const LONGEST_MS = 20_000

/**
 * Notes, by the page's own clock, when the content is drawn. Where nothing was painted before, it is what is painted first; else it
 * counts as drawn when its frame is over.
 */
const NOTE = `{
  const painted = () => performance.getEntriesByName('first-contentful-paint')[0]?.startTime
  const look = () => {
    if (![...document.querySelectorAll('h1')].some((one) => one.textContent.includes('Good to see you')))
      return requestAnimationFrame(look)
    if (painted() === undefined) window.drawn = painted
    else requestAnimationFrame(() => setTimeout(() => { const now = performance.now(); window.drawn = () => now }))
  }
  requestAnimationFrame(look)
}`
const READ = 'window.drawn?.() ?? 0'

interface Answered {
  readonly id?: number
  readonly result?: Record<string, unknown>
  readonly error?: { readonly message: string }
}

/**
 * A browser of one's own, asked only what has to be asked. The one that the journeys use is watched over: of each error that a
 * page makes it wants to know where, and reads the page's code a second time for it, which no user's browser does.
 */
const openPlain = async () => {
  const { executablePath = '', args = [] } = config.use?.launchOptions ?? {}
  const folder = await mkdtemp(join(tmpdir(), 'marmot-cold-'))
  const browser = spawn(executablePath, [
    ...args,
    '--headless=new',
    '--remote-debugging-port=0',
    `--user-data-dir=${folder}`,
    'about:blank',
  ])
  const address = await new Promise<string>((resolve, reject) => {
    let said = ''
    browser.stderr.on('data', (part) => {
      said += String(part)
      const [, found] = /DevTools listening on (ws:\S+)/.exec(said) ?? []
      if (found) resolve(found)
    })
    browser.on('exit', () => reject(new Error(`The browser ended: ${said.slice(-400)}`)))
  })
  const socket = new WebSocket(address)
  await new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject))
  const waiting = new Map<number, (answered: Answered) => void>()
  socket.on('message', (data) => {
    const answered: Answered = JSON.parse(String(data))
    if (answered.id !== undefined) waiting.get(answered.id)?.(answered)
  })
  let last = 0
  const ask = (method: string, params: object = {}, sessionId?: unknown): Promise<Record<string, unknown>> =>
    new Promise((resolve, reject) => {
      const id = ++last
      waiting.set(id, ({ result, error }) =>
        error ? reject(new Error(`${method}: ${error.message}`)) : resolve(result ?? {}),
      )
      socket.send(JSON.stringify({ id, method, params, sessionId }))
    })
  const close = async () => {
    socket.close()
    const over = new Promise((resolve) => browser.once('exit', resolve))
    browser.kill()
    await over
    await rm(folder, { recursive: true, force: true, maxRetries: 5 })
  }
  return { ask, close }
}

type Ask = Awaited<ReturnType<typeof openPlain>>['ask']

const coldOnce = async (
  ask: Ask,
  url: string,
  cookies: readonly Cookie[],
  slower: number,
): Promise<number> => {
  const { browserContextId } = await ask('Target.createBrowserContext')
  const { targetId } = await ask('Target.createTarget', {
    url: 'about:blank',
    browserContextId,
    width: 1280,
    height: 800,
  })
  const { sessionId } = await ask('Target.attachToTarget', { targetId, flatten: true })
  await ask('Page.enable', {}, sessionId)
  await ask(
    'Network.setCookies',
    { cookies: cookies.map(({ name, value, httpOnly }) => ({ name, value, httpOnly, url })) },
    sessionId,
  )
  await ask('Page.addScriptToEvaluateOnNewDocument', { source: NOTE }, sessionId)
  await ask('Emulation.setCPUThrottlingRate', { rate: slower }, sessionId)
  await ask('Page.navigate', { url: `${url}/now` }, sessionId)
  const end = performance.now() + LONGEST_MS
  // Looked for seldom, and not at once: whoever looks takes from what is measured.
  for (let wait = 1500 * slower; performance.now() < end; wait = 500) {
    await new Promise((resolve) => setTimeout(resolve, wait))
    const { result } = await ask('Runtime.evaluate', { expression: READ, returnByValue: true }, sessionId)
    const painted = Number(Object(result).value)
    if (painted > 0) {
      await ask('Target.disposeBrowserContext', { browserContextId })
      return painted
    }
  }
  throw new Error('The first screen did not come')
}

/** Until the first screen shows its content to somebody who was signed in before and has nothing of Marmot in their browser. */
export const measureCold = async (cookies: readonly Cookie[], url: string): Promise<boolean> => {
  const { ask, close } = await openPlain()
  try {
    const results = []
    for (const { name, slower, budget } of COLD) {
      const rounds: number[] = []
      for (let i = 0; i < ROUNDS; i++) rounds.push(await coldOnce(ask, url, cookies, slower))
      const ms = Math.min(...rounds)
      results.push(ms <= budget)
      console.log(
        `${name.padEnd(24)}${ms.toFixed(0)} ms until what waits for one is drawn, nothing in the cache${slower > 1 ? `, the processor ${slower} times slower` : ''}; budget ${budget} ms: ${met(ms <= budget)}`,
      )
    }
    return results.every(Boolean)
  } finally {
    await close()
  }
}
