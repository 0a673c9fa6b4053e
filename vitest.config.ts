import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
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
          ],
          setupFiles: ['./core/testing/properties.ts'],
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          globalSetup: ['server/testing/cluster.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
})
