/** Journeys that are walked beside each other have a Marmot each, with ten ports of its own. */
const FIRST = 4560 + 10 * Number(process.env.TEST_PARALLEL_INDEX ?? 0)

/** Where each part of it listens; `elsewhere` is another site. */
export const PORTS = {
  marmot: FIRST,
  smtp: FIRST + 1,
  mailIn: FIRST + 2,
  letters: FIRST + 3,
  partner: FIRST + 4,
  conference: FIRST + 5,
  weather: FIRST + 6,
  elsewhere: FIRST + 9,
} as const

export const MARMOT = `http://localhost:${PORTS.marmot}`
export const LETTERS = `http://localhost:${PORTS.letters}`
export const CONFERENCE = `http://localhost:${PORTS.conference}`
export const PARTNER = `http://localhost:${PORTS.partner}`
