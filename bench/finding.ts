import { z } from 'zod'
import type { Large } from './large.ts'
import { median, met, timed } from './measuring.ts'

const BUDGET = 100
const ROUNDS = 15
/** A word that many entries have, two together, a person's name, words that were only said, and what nothing has. */
const ASKED = ['re', 'core review', 'tashi', 'first then', 'zzzzq']

const found = z.object({ entries: z.array(z.unknown()) })

/** The time that a search by words takes in the large demo, from the request to the answer. Gives whether its budget was met. */
export const measureFinding = async (large: Large): Promise<boolean> => {
  const parts: string[] = []
  let most = 0
  for (const q of ASKED) {
    const path = `/api/search?q=${encodeURIComponent(q)}`
    const read = async () => (await large.ask(path)).arrayBuffer()
    const { entries } = found.parse(await (await large.ask(path)).json())
    const times: number[] = []
    for (let i = 0; i < ROUNDS; i++) times.push(await timed(read))
    most = Math.max(most, median(times))
    parts.push(`"${q}" ${median(times).toFixed(0)} ms, ${entries.length} found`)
  }
  const fits = most <= BUDGET
  console.log(
    `finding by words        ${most.toFixed(0)} ms at the most, at most ${BUDGET}: ${met(fits)}   (${parts.join('; ')})`,
  )
  return fits
}
