import { readFileSync } from 'node:fs'
import { emptyBrief } from '@marmot/contract/briefs'
import { findOpenings } from '@marmot/contract/openings'
import { DAY } from '@marmot/core/time'
import type { Large } from './large.ts'
import { met } from './measuring.ts'

const BUDGET_MB = 300
const CLIENTS = 8
const ROUNDS = 12
const SEARCHED = 200
const SEEN = 40
/** As many days as the lanes of places show at most. */
const WEEK = 'from=2026-11-23T00:00:00Z&to=2026-11-30T00:00:00Z'

/** The most memory that a process ever had in use, in MB (Linux). */
export const mostUsed = (pid: number): number =>
  Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024

/**
 * The server's memory while clients read lanes, a year, places and the people's list, and search for 200 people, all at
 * once. Gives whether it stayed within its budget.
 */
export const measureMemory = async (large: Large, ids: readonly string[]): Promise<boolean> => {
  const pid = large.server.pid ?? 0
  const today = Math.floor(Date.UTC(2026, 10, 23) / DAY)
  const brief = {
    ...emptyBrief(today, ids[0] ?? ''),
    people: ids.slice(0, SEARCHED).map((id, i) => ({ id, required: i < 4, group: null })),
    toDay: today + 56,
  }
  const range = 'from=2026-11-22T00:00:00Z&to=2027-01-12T00:00:00Z'
  const searching = () => large.ask(findOpenings.path, { brief })
  const reading = [
    () =>
      large.ask('/api/availability', {
        people: ids.slice(0, SEEN),
        ...Object.fromEntries(new URLSearchParams(range)),
      }),
    () => large.ask(`/api/entries?from=2026-10-25T00:00:00Z&to=2027-11-02T00:00:00Z`),
    () => large.ask(`/api/reservations?${WEEK}`),
    () => large.ask('/api/reservations/fill?first=2026-11-23&days=49&zone=Europe/Vienna'),
    () => large.ask('/api/people?q=ma'),
  ]
  let asked = 0
  const failed = new Map<string, number>()
  const client = async (work: readonly (() => Promise<Response>)[], k: number) => {
    for (let i = 0; i < ROUNDS; i++) {
      const response = await work[(i + k) % work.length]?.()
      await response?.arrayBuffer()
      asked++
      if (response && !response.ok)
        failed.set(`${response.status} ${response.url}`, (failed.get(`${response.status}`) ?? 0) + 1)
    }
  }
  const clients = (work: readonly (() => Promise<Response>)[]) =>
    Promise.all(Array.from({ length: CLIENTS }, (_, k) => client(work, k)))
  // Searches run in threads, which count apart: what they take is what is on top once they have begun.
  await clients(reading)
  const most = mostUsed(pid)
  await clients([...reading, searching])
  if (failed.size) throw new Error(`Some were refused: ${[...failed.keys()][0]?.slice(0, 200)}`)
  const fits = most <= BUDGET_MB
  console.log(
    `server memory           ${most.toFixed(0)} MB at the most, ${mostUsed(pid).toFixed(0)} MB with its threads; budget ${BUDGET_MB} MB without: ${met(fits)}   (${asked} requests by ${CLIENTS} clients at once: lanes of ${SEEN} people, searches for ${SEARCHED}, a year, places, people)`,
  )
  return fits
}
