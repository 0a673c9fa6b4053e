import { decidePoll, type OrganizedPoll, type PollVoter, reopenPoll } from '@marmot/contract/organized-polls'
import { countInWords, type Standing } from '@marmot/core/polls'
import { clocksThere, DAY, lengthInWords, spanInWords, zoneTable } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { z } from 'zod'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { ApiProblem, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Beside } from '../ui/beside.tsx'
import { namesInWords } from '../ui/names.ts'
import { Button, Choice, counted, Trouble } from '../ui/parts.tsx'
import { WhoSays } from './by-time.tsx'
import { MARK_WORDS, MarkGlyph } from './mark.tsx'
import { saidBy } from './standing.ts'

const refusal = z.object({
  placeId: z.string(),
  free: z.array(z.object({ id: z.string(), name: z.string(), seats: z.number() })),
})

/** What else is free, when a place was taken meanwhile. */
const alternativesIn = (error: unknown) => {
  const read = refusal.safeParse(error instanceof ApiProblem ? error.problem.more : null)
  return read.success ? read.data : null
}

/** One who is asked: invited to the time that is chosen, or told that it takes place without them. */
const Invited = ({
  poll,
  voter,
  timeId,
  checked,
  onChoose,
}: {
  poll: OrganizedPoll
  voter: PollVoter
  timeId: string
  checked: boolean
  onChoose: (checked: boolean) => void
}) => {
  const time = poll.times.find((one) => one.id === timeId)
  const { zone } = useMe()
  const said = saidBy(voter).get(timeId)
  const theirs = voter.zone ? zoneTable(voter.zone) : null
  const start = Date.parse(time?.start ?? '')
  const clock =
    time && theirs && theirs.zone !== zone.zone ? clocksThere(start, Date.parse(time.end), theirs, zone) : ''
  return (
    <li className="border-line border-t first:border-t-0">
      <Choice checked={checked} onChoose={onChoose}>
        <span className="flex min-w-0 flex-1 flex-wrap items-center gap-x-2">
          <span className="min-w-0 truncate">{voter.name}</span>
          {!voter.required && <span className="text-soft text-sm">optional</span>}
          <span className="ml-auto flex items-center gap-1.5 text-soft text-sm">
            {clock && <span>{clock}</span>}
            <MarkGlyph mark={said?.mark ?? null} supposed={said?.supposed ?? false} />
            {said?.mark ? MARK_WORDS[said.mark] : 'not yet'}
          </span>
        </span>
      </Choice>
    </li>
  )
}

/** A time of a poll, and the last look before it is chosen: when for everybody, who is invited, which places are taken. */
export const Deciding = ({
  poll,
  standing,
  onClose,
  onDrop,
}: {
  poll: OrganizedPoll
  standing: Standing
  onClose: () => void
  /** Left out where it cannot be taken off. */
  onDrop?: (() => void) | undefined
}) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const writes = useMeetingWrites()
  const keyOf = useKeyOf()
  const { busy, trouble, attempt } = useAttempt()
  const time = poll.times.find((one) => one.id === standing.timeId)
  const mayCome = (voter: PollVoter) => voter.required || saidBy(voter).get(standing.timeId)?.mark !== 'no'
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set())
  const [places, setPlaces] = useState<readonly { id: string; name: string }[] | null>(null)
  const [autoNudge, setAutoNudge] = useState(false)
  if (!time) return null
  const [start, end] = [Date.parse(time.start), Date.parse(time.end)]
  const taken = places ?? time.places
  const lost = places ? [] : time.places.filter((place) => !place.free)
  const invited = poll.voters.filter((voter) => mayCome(voter) !== turned.has(voter.id))
  const others = poll.voters.length - invited.length
  const turn = (id: string) =>
    setTurned((before) => {
      const next = new Set(before)
      if (!next.delete(id)) next.add(id)
      return next
    })
  const alternatives = alternativesIn(trouble)
  const decide = async () => {
    const body = {
      timeId: time.id,
      voters: invited.map((voter) => voter.id),
      places: taken.map((place) => place.id),
      autoNudge,
    }
    const params = { pollId: poll.pollId }
    await attempt(async () => {
      const sent = await call(decidePoll, { params, body, key: keyOf(body) })
      queries.invalidateQueries()
      writes.done(`Made ${poll.title}`, { ...sent, told: poll.voters.length }, () => {
        // Taken back, it is asked again as it was.
        call(reopenPoll, { params, body: {} }).then(
          () => queries.invalidateQueries(),
          (error: unknown) => toast.error(problemWords(error)),
        )
        navigate(`/poll/${poll.pollId}`)
      })
      navigate(`/now?meeting=${sent.entryId}`)
    })
    void queries.invalidateQueries({ queryKey: ['poll', poll.pollId] })
  }
  const placeNames = taken.map((place) => place.name)
  return (
    <Beside
      title={spanInWords(start, end, zone, now)}
      onClose={onClose}
      foot={
        <div className="flex items-center gap-2">
          {onDrop && (
            <button type="button" className="mr-auto rounded px-1 text-coral" onClick={onDrop}>
              Do not ask about it
            </button>
          )}
          <Button
            tone="primary"
            className="ml-auto"
            disabled={busy || invited.length === 0 || start <= now}
            onClick={decide}
          >
            {busy
              ? 'Sending…'
              : `Choose it: ${counted(invited.length, 'invitation', 'invitations')}${placeNames.length ? ` and ${namesInWords(placeNames)}` : ''}`}
          </Button>
        </div>
      }
    >
      <div className="flex flex-col gap-3.5">
        <p>
          {lengthInWords(poll.minutes)}
          {placeNames.length ? `, in ${namesInWords(placeNames)}` : ', no place'}.{' '}
          {countInWords(standing.all)}.
        </p>
        {time.clash && (
          <Trouble>
            {poll.organizer}{' '}
            {time.clash === 'unknown' ? 'shares nothing' : `has something else then (${time.clash})`}.
          </Trouble>
        )}
        {lost.length > 0 && trouble === null && (
          <Trouble action={<Button onClick={() => setPlaces([])}>Choose it without a place</Button>}>
            {namesInWords(lost.map((place) => place.name))} cannot be had then any more.
          </Trouble>
        )}
        <section aria-label="Who is invited">
          <h3 className="font-semibold">Who is invited</h3>
          <ul>
            {poll.voters.map((voter) => (
              <Invited
                key={voter.id}
                poll={poll}
                voter={voter}
                timeId={time.id}
                checked={invited.includes(voter)}
                onChoose={() => turn(voter.id)}
              />
            ))}
          </ul>
          {others > 0 && (
            <p className="text-soft text-sm">
              {counted(others, 'is told', 'are told')} that it takes place without them.
            </p>
          )}
        </section>
        {poll.voters.some((voter) => voter.comment) && (
          <section aria-label="What they say">
            <h3 className="font-semibold">What they say</h3>
            <ul className="flex flex-col gap-1">
              {poll.voters
                .filter((voter) => voter.comment)
                .map((voter) => (
                  <li key={voter.id} className="text-sm">
                    {voter.name}: “{voter.comment}”
                  </li>
                ))}
            </ul>
          </section>
        )}
        {start - now > 2 * DAY && (
          <Choice checked={autoNudge} onChoose={setAutoNudge}>
            Remind those who have not answered, two days before
          </Choice>
        )}
        {trouble !== null && (
          <Trouble
            action={alternatives?.free.slice(0, 4).map((place) => (
              <Button
                key={place.id}
                onClick={() => setPlaces(taken.map((one) => (one.id === alternatives.placeId ? place : one)))}
              >
                Take {place.name} instead ({place.seats} seats)
              </Button>
            ))}
          >
            {problemWords(trouble)}
          </Trouble>
        )}
        <details className="md:hidden">
          <summary className="min-h-thumb cursor-pointer py-2">Who says what</summary>
          <WhoSays poll={poll} timeId={time.id} />
        </details>
      </div>
    </Beside>
  )
}
