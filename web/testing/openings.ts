import type { Opening } from '@marmot/core/openings'

/** The parts of an opening that costs nobody anything. */
const NOTHING_SPENT: Opening['parts'] = {
  missing: [],
  tentative: [],
  stretch: [],
  lunch: [],
  squeezed: [],
  scraps: 0,
  days: 0,
  fairness: 0,
  spared: [],
  weather: null,
  places: null,
}

/** An opening of half an hour, at an instant, of which only what is given costs anything. */
export const openingAt = (start: number, parts: Partial<Opening['parts']> = {}): Opening => ({
  start,
  end: start + 1_800_000,
  from: start,
  to: start,
  cost: 0,
  parts: { ...NOTHING_SPENT, ...parts },
})
