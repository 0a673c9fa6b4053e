import type { Exchange } from '@marmot/contract/asked'
import { answerExchange, withdrawExchange } from '@marmot/contract/exchanges'
import { clocksInWords, shortTime, spanInWords } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'

interface Room {
  readonly exchange: Exchange
  /** What would have been sent is wanted in hand again. */
  readonly onAgain: (wish: NonNullable<Exchange['wish']>) => void
}

/** What I asked others to make room for: who has agreed, who not yet; it can be withdrawn. */
const Mine = ({ exchange, onAgain }: Room) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const { trouble, attempt } = useAttempt()
  const { wish, ended } = exchange
  const withdraw = async (back: boolean) => {
    await attempt(async () => {
      await call(withdrawExchange, { params: { exchangeId: exchange.exchangeId } })
      if (back && wish) onAgain(wish)
      else if (!ended) toast(`You do not ask for ${exchange.place} any more.`)
    })
    void queries.invalidateQueries({ queryKey: ['now'] })
  }
  const again = wish && (
    <Button tone={ended ? 'primary' : 'plain'} onClick={() => withdraw(true)}>
      Arrange it otherwise
    </Button>
  )
  if (ended)
    return (
      <>
        <p>
          Nobody made room in <b className="font-semibold">{exchange.place}</b>,{' '}
          {spanInWords(Date.parse(exchange.start), Date.parse(exchange.end), zone, now)}. “{wish?.title}” was
          not sent.
        </p>
        {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
        <div className="flex items-center justify-end gap-2">
          <Button onClick={() => withdraw(false)}>Leave it</Button>
          {again}
        </div>
      </>
    )
  return (
    <>
      <p>
        You asked for room in <b className="font-semibold">{exchange.place}</b>,{' '}
        {spanInWords(Date.parse(exchange.start), Date.parse(exchange.end), zone, now)}
        {wish && `. “${wish.title}” is sent once there is.`}
      </p>
      <ul className="text-sm">
        {exchange.moves.map((one) => (
          <li key={`${one.by} ${one.from}`}>
            {one.mine ? 'You' : one.by}, from {one.from} to {one.to}:{' '}
            {one.agreed ? 'agreed' : <span className="text-soft">has not answered</span>}
          </li>
        ))}
      </ul>
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      <div className="flex flex-wrap items-center justify-end gap-2">
        <span className="mr-auto text-soft text-sm">
          Lapses {shortTime(Date.parse(exchange.lapses), zone)}
        </span>
        {again}
        <Button onClick={() => withdraw(false)}>Ask no more</Button>
      </div>
    </>
  )
}

/** What I am asked: to go elsewhere with something of mine, so that somebody else gets its place. */
const Asked = ({ exchange }: { exchange: Exchange }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const [refusing, setRefusing] = useState(false)
  const [words, setWords] = useState('')
  const { busy, trouble, attempt } = useAttempt()
  const keyOf = useKeyOf()
  const { exchangeId, by, place, purpose } = exchange
  const mine = exchange.moves.filter((one) => one.asked)
  const answer = async (agree: boolean) => {
    const body = { agree, words: agree ? '' : words }
    await attempt(async () => {
      const { done, failed } = await call(answerExchange, {
        params: { exchangeId },
        body,
        key: keyOf(body),
      })
      if (failed)
        toast.error(`It could not be done any more: ${failed} Yours stays where it is, and ${by} is told.`)
      else if (!agree) toast(`${by} is told that you stay.`)
      else if (done) toast(`You have ${mine.map((one) => one.to).join(' and ')}, and ${by} has ${place}.`)
      else toast('You agreed. It is done once the others agree, too.')
    })
    void queries.invalidateQueries()
  }
  return (
    <>
      <p>
        <b className="font-semibold">{by}</b> needs <b className="font-semibold">{place}</b>,{' '}
        {spanInWords(Date.parse(exchange.start), Date.parse(exchange.end), zone, now)}
        {purpose ? `: ${purpose}` : ''}
      </p>
      <ul>
        {mine.map((one) => (
          <li key={one.start + one.from}>
            Would “{one.title}”, {clocksInWords(Date.parse(one.start), Date.parse(one.end), zone)}, go from{' '}
            {one.from} to <b className="font-semibold">{one.to}</b>? It seats all of you, and has what{' '}
            {one.from} has.
          </li>
        ))}
      </ul>
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      {refusing && (
        <Field label={`Why not (${by} reads it)`}>
          {(props) => (
            <input
              {...props}
              maxLength={1000}
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          )}
        </Field>
      )}
      <div className="flex flex-wrap items-center justify-end gap-2">
        <span className="mr-auto text-soft text-sm">
          Lapses {shortTime(Date.parse(exchange.lapses), zone)}
        </span>
        {refusing ? (
          <>
            <Button disabled={busy} onClick={() => setRefusing(false)}>
              Not yet
            </Button>
            <Button tone="trouble" disabled={busy} onClick={() => answer(false)}>
              {busy ? 'Saying no…' : 'Stay, and tell them'}
            </Button>
          </>
        ) : (
          <>
            <Button disabled={busy} onClick={() => setRefusing(true)}>
              No, I stay…
            </Button>
            <Button tone="primary" disabled={busy} onClick={() => answer(true)}>
              {busy ? 'Moving…' : `Go to ${mine.map((one) => one.to).join(' and ')}`}
            </Button>
          </>
        )}
      </div>
    </>
  )
}

/** Room that is asked for, by me or of me. */
export const RoomCard = ({ exchange, onAgain }: Room) => (
  <li
    className="flex flex-col gap-2 rounded-lg bg-paper p-4"
    aria-label={`Room in ${exchange.place} for ${exchange.mine ? 'you' : exchange.by}`}
  >
    {exchange.mine ? <Mine exchange={exchange} onAgain={onAgain} /> : <Asked exchange={exchange} />}
  </li>
)
