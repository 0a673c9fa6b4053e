import type { Domain } from './platform/house.ts'

/** The domains of the house: whatever folder has a `domain.ts`. The application, `openapi.json` and the matrix read this. */
const found = import.meta.glob<Domain>('./*/domain.ts', { eager: true, import: 'domain' })

export const domains: readonly Domain[] = Object.values(found)
