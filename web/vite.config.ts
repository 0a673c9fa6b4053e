import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { brotliCompress } from 'node:zlib'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

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

const FIRST =
  /[\\/]contract[\\/](?:agenda|asked|availability|conferences|entries|meetings|notices|now|people|poll-lines|proposals|resources|runs|sharing)\.ts$/

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss(), packing()],
  build: {
    outDir: 'dist',
    manifest: true,
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      // The staff's application, and what those without an account see, which loads nothing of it.
      input: [join(import.meta.dirname, 'index.html'), join(import.meta.dirname, 'outside.html')],
      // What the first screen has of the contract in any case, as one file: a dozen small ones pack worse. Zod apart from it:
      // the page says how it works before the first schema is made.
      output: {
        codeSplitting: {
          includeDependenciesRecursively: false,
          groups: [
            { name: 'zod', test: /[\\/]node_modules[\\/]zod[\\/]/ },
            // What those without an account load of it, too.
            { name: 'route', test: /[\\/]contract[\\/](?:route|live)\.ts$/ },
            { name: 'contract', test: FIRST },
          ],
        },
      },
    },
  },
})
