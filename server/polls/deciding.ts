import { sendMeeting } from '@marmot/contract/meetings'
import type { decidePoll } from '@marmot/contract/organized-polls'
import { toWall, wallText, zoneTable } from '@marmot/core/time'
import type { z } from 'zod'
import { type Conference, datesToMake } from '../entries/index.ts'
import { inVain, send } from '../meetings/index.ts'
import type { Sql } from '../platform/database.ts'
import { notFound, ProblemError } from '../platform/problems.ts'
import { lockResources } from '../reservations/index.ts'
import { closesOrProblem, openToChange, tellPoll } from './asking.ts'
import { holdTimes, letGo } from './holding.ts'
import { organizing, wishOf } from './reading.ts'
import { lockPoll, setDecided, setOpen, setWithdrawn, stands, timesOf, votersOf } from './store.ts'
import { oweTelling } from './telling.ts'

interface Acting {
  readonly askerId: string
  readonly now: number
  readonly momentMs: number
}

/**
 * Makes the meeting of a time of a poll, with its people and places, and lets what is held for the others go: all of it in the
 * caller's transaction. Throws where a place cannot be had; then it stands as it was.
 */
export const decide = async (
  sql: Sql,
  pollId: string,
  chosen: z.output<(typeof decidePoll)['body']>,
  { askerId, now, momentMs, conference }: Acting & { readonly conference: Conference | null },
) => {
  const poll = await openToChange(sql, pollId, askerId, now)
  const times = await timesOf(sql, pollId)
  const time = times.find((one) => one.id === chosen.timeId)
  if (!time)
    throw new ProblemError(
      409,
      'not-asked',
      'That time is not asked about any more. Nothing was sent; choose among those that are.',
    )
  if (time.start <= now)
    throw new ProblemError(422, 'in-the-past', 'That time is over. Nothing was sent; choose a later one.')
  const invited = (await votersOf(sql, pollId)).filter((one) => !one.gone && chosen.voters.includes(one.id))
  if (invited.length < new Set(chosen.voters).size)
    throw new ProblemError(
      409,
      'not-asked',
      'Somebody of these is not asked any more. Nothing was sent; look at it as it is now.',
    )
  const wish = wishOf(poll)
  const body = sendMeeting.body.parse({
    ...wish,
    starts: wallText(toWall(zoneTable(poll.zone), time.start)),
    zone: poll.zone,
    minutes: poll.minutes,
    people: invited.flatMap((one) => (one.personId ? [{ id: one.personId, required: one.required }] : [])),
    // Whoever proved their address comes after whoever only said theirs, and counts.
    guests: invited
      .filter((one) => !one.personId)
      .sort((a, b) => Number(a.proved) - Number(b.proved))
      .map((one) => ({ address: one.address, name: one.name, required: one.required })),
    places: chosen.places,
    autoNudge: chosen.autoNudge,
    of: poll.ownerId,
  })
  await lockResources(sql, [...chosen.places, ...times.flatMap((one) => one.places)], [])
  const touched = await letGo(sql, poll, times)
  const dates = datesToMake(body, now)
  const sent = await send(sql, body, dates, { askerId, now, momentMs, conference }).catch(
    inVain({ ...body, dates, organizerId: poll.ownerId }),
  )
  await setDecided(sql, pollId, { ...chosen, entryId: sent.entryId }, now)
  await oweTelling(sql, pollId, momentMs)
  await tellPoll(sql, poll, touched)
  return sent
}

/** Asks no more: what is held goes, and whoever was told is told. Asked no more already, it stays so. */
export const withdraw = async (
  sql: Sql,
  pollId: string,
  { askerId, now, momentMs }: Acting,
): Promise<void> => {
  const poll = await organizing(sql, await lockPoll(sql, pollId, 'update'), askerId, now)
  if (poll.state === 'withdrawn') return
  if (poll.state === 'decided')
    throw new ProblemError(
      409,
      'poll-closed',
      'A time was chosen already. Cancel the meeting instead; nothing was changed.',
    )
  const touched = await letGo(sql, poll, await timesOf(sql, pollId))
  await setWithdrawn(sql, pollId)
  await oweTelling(sql, pollId, momentMs)
  await tellPoll(sql, poll, touched)
}

/**
 * Asks again: what was withdrawn, or was decided for a meeting that does not stand any more. What was marked counts; the times
 * are held again where they can be.
 */
export const reopen = async (
  sql: Sql,
  pollId: string,
  closes: number | null,
  { askerId, now, momentMs }: Acting,
): Promise<void> => {
  const poll = await organizing(sql, await lockPoll(sql, pollId, 'update'), askerId, now)
  if (poll.state === 'open') return
  if (poll.entryId && (await stands(sql, poll.entryId)))
    throw new ProblemError(
      409,
      'meeting-stands',
      'The meeting that was made of it stands. Cancel it first, or move it; nothing was changed.',
    )
  const times = await timesOf(sql, pollId)
  const last = times.at(-1)?.start
  if (last === undefined) throw notFound('time of it')
  const until = closes ?? poll.closes
  closesOrProblem(until, last, now)
  await setOpen(sql, pollId, until)
  const again = { ...poll, closes: until, state: 'open' as const }
  const touched = poll.holds ? await holdTimes(sql, again, times, now) : []
  await oweTelling(sql, pollId, momentMs)
  await tellPoll(sql, poll, touched)
}
