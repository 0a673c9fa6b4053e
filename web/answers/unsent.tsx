import { spanInWords } from '@marmot/core/time'
import { TriangleAlert, WifiOff } from 'lucide-react'
import { useMe, useNow } from '../platform/session.tsx'
import { Button } from '../ui/parts.tsx'
import { CHOICES } from './answer-form.tsx'
import { dropAnswer } from './outbox.ts'
import type { Waiting } from './waiting.ts'

/** Answers that wait on this device for a connection, and those that came too late, with what became of the meeting. */
export const Unsent = ({
  waiting,
  onOpen,
}: {
  waiting: readonly Waiting[]
  onOpen: (entryId: string) => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  return (
    <ul aria-label="Answers not sent yet" className="flex flex-col gap-2">
      {waiting.map((one) => {
        const name = CHOICES.find((choice) => choice.answer === one.answer)?.name ?? one.answer
        const { refused } = one
        const moved =
          refused?.start && refused.end
            ? ` It is now ${spanInWords(Date.parse(refused.start), Date.parse(refused.end), zone, now)}.`
            : ''
        return (
          <li
            key={one.id}
            className={`flex flex-wrap items-center gap-x-3 gap-y-1.5 rounded-lg border bg-paper px-4 py-2 ${refused ? 'border-coral' : 'border-line'}`}
          >
            {refused ? (
              <TriangleAlert size={17} className="shrink-0 text-coral" aria-hidden />
            ) : (
              <WifiOff size={17} className="shrink-0 text-soft" aria-hidden />
            )}
            <p className="min-w-56 flex-1">
              {refused ? (
                <>
                  <b>“{name}” was not sent.</b> {refused.words}
                  {moved}
                </>
              ) : (
                <>
                  <b>“{name}”</b> to {one.title} is kept on this device, and goes out once Marmot can be
                  reached.
                </>
              )}
            </p>
            {refused && (
              <Button
                tone="primary"
                onClick={() => {
                  void dropAnswer(one)
                  onOpen(one.entryId)
                }}
              >
                Look at it
              </Button>
            )}
            <Button tone="quiet" onClick={() => dropAnswer(one)}>
              {refused ? 'Dismiss' : 'Do not send it'}
            </Button>
          </li>
        )
      })}
    </ul>
  )
}
