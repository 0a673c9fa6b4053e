import type { AskedPoll } from '@marmot/contract/polls'
import { textOfNote } from '@marmot/core/entries'
import { shortTime, spanInWords, type ZoneTable } from '@marmot/core/time'
import type { ReactNode } from 'react'
import { Trouble } from '../ui/parts.tsx'

/** What a poll is about, and, once nothing can be marked any more, why; else what is below. */
export const AskedWords = ({
  poll,
  zone,
  children,
}: {
  poll: AskedPoll
  zone: ZoneTable
  children: ReactNode
}) => {
  const chosen = poll.times.find((time) => time.id === poll.chosen?.timeId)
  const note = textOfNote(poll.note)
  return (
    <>
      <header>
        <p>
          {poll.me ? `Hello ${poll.me.name}, ` : ''}
          {poll.organizer} asks which times suit {poll.me ? 'you' : 'you all'} for
        </p>
        <h1 className="text-balance font-bold text-2xl">{poll.title}</h1>
        {note && <p className="mt-1 whitespace-pre-wrap text-soft">{note}</p>}
        {poll.me && !poll.me.required && <p className="text-soft">You are welcome, and need not come.</p>}
      </header>
      {poll.state === 'open' ? (
        children
      ) : poll.state === 'decided' ? (
        <div role="status" className="rounded-lg border-gentian border-l-4 bg-paper px-4 py-3">
          {chosen && (
            <p className="font-semibold text-lg">
              {spanInWords(Date.parse(chosen.start), Date.parse(chosen.end), zone, Date.parse(poll.now))}
            </p>
          )}
          <p className="text-soft">
            {poll.chosen?.invited
              ? 'This time was chosen. You are invited: the invitation has come to you by letter.'
              : 'This time was chosen, and you are not expected. Thank you for answering.'}
          </p>
        </div>
      ) : poll.state === 'over' ? (
        <Trouble>
          The time to answer was over {shortTime(Date.parse(poll.closes), zone)}.{' '}
          {poll.me?.answered ? 'What you said is counted.' : ''} You will hear which time was chosen.
        </Trouble>
      ) : (
        <Trouble>{poll.organizer} does not ask about these times any more. There is nothing to do.</Trouble>
      )}
    </>
  )
}
