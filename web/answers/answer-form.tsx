import type { Meeting } from '@marmot/contract/meetings'
import { ANSWER_NAMES } from '@marmot/core/invitations'
import { dayOf, shortDay, toWall, type ZoneTable } from '@marmot/core/time'
import { Check, CircleHelp, X } from 'lucide-react'
import { type ReactNode, useId, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { Button, Trouble } from '../ui/parts.tsx'

export type Given = (typeof ANSWER_NAMES)[number]['answer']

const ICONS = { accepted: Check, tentative: CircleHelp, declined: X } as const

export const CHOICES = ANSWER_NAMES.map((one) => ({ ...one, icon: ICONS[one.answer] }))

/** The answer that the address names, since it was chosen in a letter. */
export const answerIn = (search: URLSearchParams): Given | null =>
  CHOICES.find((choice) => choice.answer === search.get('say'))?.answer ?? null

/** A date of a series, as one chooses it. */
export interface DateChoice {
  readonly recurrence: string
  readonly words: string
}

/** Which dates of a series something is for: always said, never taken for granted. */
export const WhichDates = ({
  date,
  chosen,
  onChoose,
}: {
  date: DateChoice
  chosen: string | null
  onChoose: (recurrence: string | null) => void
}) => {
  const name = useId()
  return (
    <fieldset className="flex flex-wrap gap-x-4">
      <legend className="sr-only">Which dates</legend>
      {[
        { recurrence: date.recurrence, words: `Only ${date.words}` },
        { recurrence: null, words: 'All dates' },
      ].map((choice) => (
        <label key={choice.words} className="inline-flex min-h-8 items-center gap-1.5 max-md:min-h-thumb">
          <input
            type="radio"
            name={name}
            className="accent-gentian"
            checked={chosen === choice.recurrence}
            onChange={() => onChoose(choice.recurrence)}
          />
          {choice.words}
        </label>
      ))}
    </fieldset>
  )
}

/**
 * The three answers and a message, of a series with the dates they are for. `give` sends; what goes wrong stays on screen
 * with the message kept.
 */
export const AnswerForm = ({
  current,
  organizer,
  date = null,
  quietly = null,
  meant = null,
  children,
  give,
}: {
  current: string | null
  organizer: string
  /** The date of a series that is looked at; null for a single meeting. */
  date?: DateChoice | null
  give: (answer: Given, message: string, recurrence: string | null, quiet: boolean) => Promise<void>
  /** Whether the organizer is to be told is a choice, and how it was made last; a guest answers to be heard. */
  quietly?: boolean | null
  /** The answer that was chosen in the letter: it is the one to press. */
  meant?: Given | null
  /** What else can be done with the invitation. */
  children?: ReactNode
}) => {
  const [quiet, setQuiet] = useState(quietly ?? false)
  const [which, setWhich] = useState<string | null>(null)
  const said = CHOICES.some((choice) => choice.answer === current)
  // What most say is the one to press, until one has said something.
  const first = meant ?? (said ? null : 'accepted')
  const recurrence = date && which === date.recurrence ? which : null
  const [message, setMessage] = useState('')
  const [busy, setBusy] = useState<Given | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const send = async (answer: Given) => {
    setBusy(answer)
    setTrouble(null)
    try {
      await give(answer, message, recurrence, quiet)
      setMessage('')
    } catch (error) {
      setTrouble(problemWords(error))
    } finally {
      setBusy(null)
    }
  }
  return (
    <div className="flex flex-col gap-2">
      {meant && meant !== current && (
        <p className="font-semibold">
          You chose “{CHOICES.find((choice) => choice.answer === meant)?.name}” in the letter. Press it to
          send it.
        </p>
      )}
      {date && <WhichDates date={date} chosen={recurrence} onChoose={setWhich} />}
      <div className="flex flex-wrap items-center gap-2">
        {CHOICES.map(({ answer, name, icon: Icon }) => (
          <Button
            key={answer}
            disabled={busy !== null}
            aria-pressed={current === answer}
            tone={answer === first ? 'primary' : 'plain'}
            onClick={() => send(answer)}
            className={current === answer ? 'border-2 border-gentian font-semibold' : ''}
          >
            <Icon size={15} aria-hidden /> {busy === answer ? 'sending…' : name}
          </Button>
        ))}
        <input
          aria-label={`A message to ${organizer}`}
          placeholder={`A message to ${organizer.split(' ')[0]}, if you like`}
          value={message}
          disabled={quiet}
          maxLength={2000}
          onChange={(event) => setMessage(event.target.value)}
          className="min-w-48 flex-1 rounded-md border border-soft/50 bg-paper px-2.5 py-1"
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-4">
        {quietly !== null && (
          <label className="inline-flex min-h-8 items-center gap-1.5 self-start text-sm max-md:min-h-thumb">
            <input
              type="checkbox"
              className="accent-gentian"
              checked={!quiet}
              onChange={(event) => setQuiet(!event.target.checked)}
            />
            Tell {organizer}
            {quiet && <span className="text-soft">: your answer counts in your own time only</span>}
          </label>
        )}
        {children}
      </div>
      {trouble && <Trouble>{trouble}</Trouble>}
    </div>
  )
}

/** The date of a series that a meeting is shown at, as one chooses it; null for a single meeting. */
export const dateChoice = (meeting: Meeting, zone: ZoneTable): DateChoice | null =>
  meeting.recurrence === null
    ? null
    : { recurrence: meeting.recurrence, words: shortDay(dayOf(toWall(zone, Date.parse(meeting.start)))) }
