import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { brotliCompress } from 'node:zlib'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { build, defineConfig, type Plugin } from 'vite'

const pack = promisify(brotliCompress)

/**
 * Lays a packed copy beside each script and style. Brotli at its best takes seconds, too long for the server's start,
 * and makes an eighth less of them than gzip.
 */
const packing = (): Plugin => ({
  name: 'packing',
  apply: 'build',
  writeBundle: async ({ dir = '' }, bundle) => {
    await Promise.all(
      Object.values(bundle).map(async (file) => {
        if (!/\.(js|css)$/.test(file.fileName)) return
        const whole = Buffer.from(file.type === 'chunk' ? file.code : file.source)
        await writeFile(join(dir, `${file.fileName}.br`), await pack(whole))
      }),
    )
  },
})

/** Has the page fetch the parts of the first screen as soon as it is there, rather than when its beginning has run. */
const ahead = (): Plugin => ({
  name: 'ahead',
  apply: 'build',
  transformIndexHtml: {
    order: 'post',
    handler: (_, { bundle, filename }) => {
      if (!bundle || filename !== here('index.html')) return []
      const chunks = Object.values(bundle).flatMap((one) => (one.type === 'chunk' ? one : []))
      const screen = chunks.find((one) => one.facadeModuleId === here('app/app.tsx'))
      const first = chunks.find((one) => one.name === 'first')
      const styles = [...(first?.viteMetadata?.importedCss ?? [])]
      const parts = new Set<string>()
      const follow = (file: string | undefined): void => {
        if (!file || parts.has(file)) return
        parts.add(file)
        for (const one of chunks.find((chunk) => chunk.fileName === file)?.imports ?? []) follow(one)
      }
      follow(screen?.fileName)
      return [
        ...[...parts].map((file) => ({
          tag: 'link',
          attrs: { rel: 'modulepreload', crossorigin: true, href: `/${file}` },
          injectTo: 'head' as const,
        })),
        ...styles.map((file) => ({
          tag: 'link',
          attrs: { rel: 'preload', as: 'style', crossorigin: true, href: `/${file}` },
          injectTo: 'head' as const,
        })),
      ]
    },
  },
})

const here = (name: string): string => join(import.meta.dirname, name)

const isZod = (id: string): boolean => /[\\/]node_modules[\\/]zod[\\/]/.test(id)

/** The staff's application, and what those without an account see, which loads nothing of it. */
const INPUT = [here('index.html'), here('outside.html')]

interface Chunk {
  readonly type: 'chunk'
  readonly fileName: string
  readonly facadeModuleId: string | null
  readonly moduleIds: readonly string[]
  readonly imports: readonly string[]
  readonly dynamicImports: readonly string[]
}

/** The modules in a chunk and in all that it imports; with `later` also in what those fetch later. */
const modulesFrom = (chunks: readonly Chunk[], module: string, later: boolean): ReadonlySet<string> => {
  const byName = new Map(chunks.map((chunk) => [chunk.fileName, chunk]))
  const found = new Set<Chunk>()
  const open = chunks.filter((chunk) => chunk.facadeModuleId === module)
  for (let chunk = open.pop(); chunk; chunk = open.pop()) {
    if (found.has(chunk)) continue
    found.add(chunk)
    for (const name of [...chunk.imports, ...(later ? chunk.dynamicImports : [])]) {
      const next = byName.get(name)
      if (next) open.push(next)
    }
  }
  return new Set([...found].flatMap((chunk) => chunk.moduleIds))
}

/**
 * The first screen in a handful of files: fifty small ones took a third of a second to fetch. What the page begins with, what it
 * shares with that of those who have no account, and the rest of the screen are apart, and so is Zod: the page says how it works
 * before the first schema is made. What is needed of each module shows only once it is built: so it is built twice.
 */
const partsOf = async (): Promise<(id: string) => string | null> => {
  const built = await build({
    configFile: false,
    root: import.meta.dirname,
    logLevel: 'silent',
    plugins: [react()],
    build: { write: false, minify: false, target: 'es2022', rolldownOptions: { input: INPUT } },
  })
  const [first] = [built].flat()
  const chunks = (first && 'output' in first ? first.output : []).flatMap((one) =>
    one.type === 'chunk' ? (one as Chunk) : [],
  )
  const begin = modulesFrom(chunks, here('index.html'), false)
  const screen = modulesFrom(chunks, here('app/app.tsx'), false)
  const outside = modulesFrom(chunks, here('outside.html'), true)
  if (screen.size === 0) throw new Error('The first screen was not found')
  return (id) => {
    if (isZod(id)) return 'zod'
    if (INPUT.includes(id) || id === here('main.tsx') || id === here('outside.tsx')) return null
    if (begin.has(id)) return 'begin'
    if (!screen.has(id)) return null
    return outside.has(id) ? 'shared' : 'first'
  }
}

export default defineConfig(async ({ command }) => ({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss(), packing(), ahead()],
  build: {
    outDir: 'dist',
    manifest: true,
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      input: INPUT,
      output: {
        codeSplitting: {
          includeDependenciesRecursively: false,
          groups: command === 'build' ? [{ name: await partsOf(), debugName: 'first screen' }] : [],
        },
      },
    },
  },
}))
