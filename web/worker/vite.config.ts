import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { defineConfig } from 'vite'

interface Part {
  readonly file: string
  readonly imports?: readonly string[]
  readonly css?: readonly string[]
}

/**
 * What is needed without a network: the first screen, my days, what is answered, and what keeps them. Everything else is fetched
 * when somebody asks for it.
 */
const NEEDED = [
  'index.html',
  'app/app.tsx',
  'app/keeper.tsx',
  'app/meeting-by-address.tsx',
  'app/messages.tsx',
  'app/my-menu.tsx',
  'answers/outbox.ts',
  'answers/unsent.tsx',
  'time/day-list.tsx',
  'entries/note-view.tsx',
  'lanes/upright.tsx',
  'now/lately.tsx',
  'now/poll-lines.tsx',
  'platform/kept.ts',
  'proposals/proposal-card.tsx',
  'time/my-time.tsx',
]

const dist = join(import.meta.dirname, '..', 'dist')

const filesNeeded = (): { url: string; revision: string | null }[] => {
  const parts: Record<string, Part> = JSON.parse(readFileSync(join(dist, '.vite', 'manifest.json'), 'utf8'))
  const names = new Set<string>()
  const add = (name: string): void => {
    if (names.has(name)) return
    names.add(name)
    const part = parts[name]
    if (!part) throw new Error(`${name} is needed without a network, and the build has no such part.`)
    part.imports?.forEach(add)
  }
  NEEDED.forEach(add)
  const font = Object.values(parts).find(({ file }) => /source-sans-3-latin-wght-normal/.test(file))
  const files = [...names].flatMap((name) => [parts[name]?.file ?? '', ...(parts[name]?.css ?? [])])
  const assets = [...new Set([...files, font?.file ?? ''])].filter((file) => /\.(?:js|css|woff2)$/.test(file))
  const revision = (file: string) =>
    createHash('sha256')
      .update(readFileSync(join(dist, file)))
      .digest('hex')
  return [
    { url: '/now', revision: revision('index.html') },
    { url: '/mark.svg', revision: revision('mark.svg') },
    // Their names say what is in them.
    ...assets.map((file) => ({ url: `/${file}`, revision: null })),
  ]
}

/** The worker that opens Marmot without a network: one file beside the page, built after it. */
export default defineConfig({
  root: import.meta.dirname,
  publicDir: false,
  define: { FILES: JSON.stringify(filesNeeded()), 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: '../dist',
    emptyOutDir: false,
    target: 'es2022',
    rolldownOptions: {
      input: join(import.meta.dirname, 'worker.ts'),
      output: { format: 'iife', entryFileNames: 'worker.js' },
    },
  },
})
