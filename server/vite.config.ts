import { defineConfig } from 'vite'

/**
 * The server as it runs: what is ours in a few files, packages as they are installed. Read from its sources each thread
 * took 60 MB and a second to start; so it takes 30 MB and a third of one.
 */
export default defineConfig({
  root: import.meta.dirname,
  ssr: { noExternal: [/^@marmot\//] },
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    emptyOutDir: true,
    minify: false,
    rolldownOptions: {
      input: { main: 'server/main.ts', threads: 'server/threads.ts' },
      // All side by side, in a folder as deep as platform/ is: what is found by its place is found from both.
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
})
