import { answerMeeting, type Meeting } from '@marmot/contract/meetings'
import { useQueryClient } from '@tanstack/react-query'
import { Suspense, useState } from 'react'
import { useSearchParams } from 'react-router'
import { call } from '../platform/api.ts'
import { part } from '../platform/part.tsx'
import { offline, problemCode } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { Loading } from '../ui/parts.tsx'
import { AnswerForm, answerIn, dateChoice, type Given } from './answer-form.tsx'

const PassOn = part(() => import('./pass-on.tsx').then((m) => m.PassOn))

const SAID: Record<Given, string> = {
  accepted: 'You said yes',
  tentative: 'You said perhaps',
  declined: 'You said no; it is not in your time any more',
}

const LINK = 'min-h-8 text-gentian text-sm underline underline-offset-2 max-md:min-h-thumb'

/** Answers a meeting of mine: in one of three ways, by another time, or by passing it on. */
export const MyAnswer = ({ meeting }: { meeting: Meeting }) => {
  const queries = useQueryClient()
  const say = useUndo()
  const { zone, session, person, clock } = useMe()
  const date = dateChoice(meeting, zone)
  const [search, setSearch] = useSearchParams()
  const [passing, setPassing] = useState(false)
  const propose = () =>
    setSearch({
      meeting: meeting.entryId,
      ...(meeting.recurrence ? { date: meeting.recurrence } : {}),
      propose: '1',
    })
  return (
    <div className="flex flex-col gap-2">
      <AnswerForm
        current={meeting.myAnswer}
        organizer={meeting.organizer}
        date={date}
        meant={search.get('meeting') === meeting.entryId ? answerIn(search) : null}
        quietly={meeting.myAnswer === 'needs-action' ? session.answersQuietly : meeting.answeredQuietly}
        give={async (answer, message, recurrence, quiet) => {
          const { entryId, version, title } = meeting
          const body = { answer, quiet, message: quiet ? '' : message }
          try {
            await call(answerMeeting, {
              params: { entryId },
              body: { ...body, ...(recurrence ? { recurrence } : {}) },
            })
          } catch (error) {
            if (problemCode(error) !== offline.code) throw error
            const { keepAnswer } = await import('./outbox.ts')
            await keepAnswer({
              ...body,
              id: crypto.randomUUID(),
              personId: person.id,
              entryId,
              recurrence,
              title,
              given: new Date(clock()).toISOString(),
              version,
              refused: null,
            })
            toast(`Not connected: your answer to ${title} is kept, and goes out once Marmot can be reached.`)
            return
          }
          const dates = date ? (recurrence ? `, ${date.words} only` : ', all dates') : ''
          const told = quiet ? `${meeting.organizer} is not told.` : `${meeting.organizer} is told.`
          const words = `${SAID[answer]}: ${meeting.title}${dates}. ${told}`
          const before = meeting.myAnswer
          // What single dates had been answered is not known here: all of them are taken back only where nothing was.
          const back = recurrence || !date || before === 'needs-action' ? before : null
          if (back && back !== 'delegated' && back !== answer)
            say({
              words,
              undo: async () => {
                await call(answerMeeting, {
                  params: { entryId },
                  body: { answer: back, quiet, ...(recurrence ? { recurrence } : {}) },
                })
                await queries.invalidateQueries()
                return `Taken back: your answer to ${title}.`
              },
            })
          else toast(words)
          await queries.invalidateQueries()
        }}
      >
        <button type="button" className={LINK} onClick={propose}>
          Propose another time
        </button>
        {meeting.myAnswer !== 'delegated' && (
          <button type="button" className={LINK} aria-expanded={passing} onClick={() => setPassing(!passing)}>
            Pass it on
          </button>
        )}
      </AnswerForm>
      {passing && (
        <Suspense fallback={<Loading what="whom to pass it on to" />}>
          <PassOn meeting={meeting} date={date} onClose={() => setPassing(false)} />
        </Suspense>
      )}
    </div>
  )
}
