import type { OrganizedPoll, PollVoter } from '@marmot/contract/organized-polls'
import { type Mark, rankTimes, type Standing } from '@marmot/core/polls'

/** What counts for somebody at a time: what they marked; where they have marked nothing at all, what their calendar says. */
export interface Said {
  readonly mark: Mark | null
  readonly supposed: boolean
}

/** What counts for each time, by its id, of one who is asked. */
export const saidBy = (voter: PollVoter): ReadonlyMap<string, Said> => {
  const answered = voter.markedAt !== null
  const said = new Map<string, Said>()
  // Of a time that came after they marked, their calendar is asked still.
  for (const { timeId, mark } of voter.suggested) said.set(timeId, { mark, supposed: true })
  if (answered) for (const { timeId, mark } of voter.marks) said.set(timeId, { mark, supposed: false })
  return said
}

/** The times of a poll as they stand, best first. */
export const standingsOf = (poll: OrganizedPoll): Standing[] =>
  rankTimes(
    poll.times.map((time) => ({ id: time.id, start: Date.parse(time.start), stretch: time.stretch })),
    poll.voters.map((voter) => ({
      required: voter.required,
      marks: new Map([...saidBy(voter)].flatMap(([id, { mark }]) => (mark ? [[id, mark] as const] : []))),
    })),
    poll.needed,
  )
