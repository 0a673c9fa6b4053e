import { answerMeeting, type Meeting } from '@marmot/contract/meetings'
import { useQueryClient } from '@tanstack/react-query'
import { Check, CircleHelp, X } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { call, problemWords } from '../app/api.ts'
import { Button, Trouble } from '../ui/parts.tsx'

export type Given = 'accepted' | 'tentative' | 'declined'

export const CHOICES: readonly { answer: Given; name: string; icon: typeof Check }[] = [
  { answer: 'accepted', name: 'Accept', icon: Check },
  { answer: 'tentative', name: 'Tentative', icon: CircleHelp },
  { answer: 'declined', name: 'Decline', icon: X },
]

const SAID: Record<Given, string> = {
  accepted: 'Accepted',
  tentative: 'Answered tentatively',
  declined: 'Declined; it is off your lanes',
}

/** The three answers and a message. `give` sends; what goes wrong stays on screen with the message kept. */
export const AnswerForm = ({
  current,
  organizer,
  give,
}: {
  current: string | null
  organizer: string
  give: (answer: Given, message: string) => Promise<void>
}) => {
  const [message, setMessage] = useState('')
  const [busy, setBusy] = useState<Given | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const send = async (answer: Given) => {
    setBusy(answer)
    setTrouble(null)
    try {
      await give(answer, message)
      setMessage('')
    } catch (error) {
      setTrouble(problemWords(error))
    } finally {
      setBusy(null)
    }
  }
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2">
        {CHOICES.map(({ answer, name, icon: Icon }) => (
          <Button
            key={answer}
            disabled={busy !== null}
            aria-pressed={current === answer}
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
          maxLength={2000}
          onChange={(event) => setMessage(event.target.value)}
          className="min-w-48 flex-1 rounded-md border border-soft/50 bg-paper px-2.5 py-1"
        />
      </div>
      {trouble && <Trouble>{trouble}</Trouble>}
    </div>
  )
}

/** Answers a meeting of mine. */
export const MyAnswer = ({ meeting }: { meeting: Meeting }) => {
  const queries = useQueryClient()
  return (
    <AnswerForm
      current={meeting.myAnswer}
      organizer={meeting.organizer}
      give={async (answer, message) => {
        await call(answerMeeting, { params: { entryId: meeting.entryId }, body: { answer, message } })
        toast(`${SAID[answer]}: ${meeting.title}. ${meeting.organizer} is told.`)
        await queries.invalidateQueries()
      }}
    />
  )
}
