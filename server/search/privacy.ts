import type { Privacy } from '../testing/privacy.ts'

export const privacy: Privacy = {
  'GET /api/search': (about) =>
    [about.headline, about.headline.slice(0, 5), 'Quoll', 'Sphinxlike', 'plan', 'renamed'].map((q) => ({
      path: `/api/search?q=${encodeURIComponent(q)}&most=200`,
    })),
}
