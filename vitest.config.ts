import { availableParallelism } from 'node:os'
import { defineConfig } from 'vitest/config'

/** So long may a test take on a machine that others use and that stands still now and then; no test measures time. */
const PATIENCE_MS = 120_000

export default defineConfig({
  test: {
    // All cores: by itself it leaves one of them idle, which on a small machine is half.
    maxWorkers: availableParallelism(),
    projects: [
      {
        test: {
          name: 'core',
          include: [
            'core/**/*.test.ts',
            'contract/**/*.test.ts',
            'web/**/*.test.{ts,tsx}',
            'standins/**/*.test.ts',
            'demo/**/*.test.ts',
            'scripts/**/*.test.mjs',
          ],
          setupFiles: ['./core/testing/properties.ts'],
          testTimeout: PATIENCE_MS,
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          globalSetup: ['server/testing/cluster.ts'],
          testTimeout: PATIENCE_MS,
          hookTimeout: PATIENCE_MS,
        },
      },
    ],
  },
})
