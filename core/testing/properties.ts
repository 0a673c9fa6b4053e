import fc from 'fast-check'

/**
 * The seed of every property: a fixed one in the test command, so that a run judges the change and not its luck;
 * another each time in `npm run test:random`, which says it. What a random run finds becomes an example of its own.
 */
export const SEED = Number(process.env.MARMOT_SEED ?? 20_261_123)

/** How many examples a property is tried with: `usual`, or many times that in `npm run test:random`. */
export const runs = (usual: number): number => usual * Number(process.env.MARMOT_PROPERTY_TIMES ?? 1)

fc.configureGlobal({ seed: SEED, numRuns: runs(100) })
