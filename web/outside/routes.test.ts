import * as polls from '@marmot/contract/polls'
import * as visits from '@marmot/contract/visits'
import { expect, it } from 'vitest'
import { JOIN, KIND, MARK, MOVE, PAGE, POLL, PROPOSE, PROVE, TAKE } from './routes.ts'

it('each route for those without an account is as the contract has it', () => {
  const pairs = [
    [POLL, polls.readPollByLink],
    [MARK, polls.markByLink],
    [JOIN, polls.joinPoll],
    [PROPOSE, polls.proposeTimeByLink],
    [PAGE, visits.readVisitPage],
    [KIND, visits.readVisitKind],
    [TAKE, visits.bookVisit],
    [PROVE, visits.proveVisit],
    [MOVE, visits.moveVisit],
  ] as const
  expect(pairs.map(([{ method, path }]) => ({ method, path }))).toEqual(
    pairs.map(([, { method, path }]) => ({ method, path })),
  )
})
