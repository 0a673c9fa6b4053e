import {
  dismissReminder,
  listReminders,
  type Reminder,
  remindersEvent,
  snoozeReminder,
} from '@marmot/contract/reminders'
import { clocksInWords, lengthInWords, minutesBetween } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Bell } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { useNavigate } from 'react-router'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button } from '../ui/parts.tsx'

const whenWords = (start: number, now: number): string => {
  const minutes = minutesBetween(now, start)
  return minutes > 0
    ? `in ${lengthInWords(minutes)}`
    : minutes === 0
      ? 'now'
      : `since ${lengthInWords(-minutes)}`
}

/** Also says it outside the page, where the browser was allowed to; each once in a page. */
const useNotifications = (reminders: readonly Reminder[]) => {
  const { clock } = useMe()
  const said = useRef(new Set<string>())
  useEffect(() => {
    if (!('Notification' in window) || Notification.permission !== 'granted') return
    for (const one of reminders) {
      if (said.current.has(one.id)) continue
      said.current.add(one.id)
      new Notification(one.title || 'An entry', {
        body: `${whenWords(Date.parse(one.start), clock())}${one.place ? `, ${one.place}` : ''}`,
        tag: one.id,
        icon: '/mark.svg',
      })
    }
  }, [reminders, clock])
}

const remindersKey = () => ['reminders']

const SNOOZES = [5, 15, 60]

/** Reminders that have come due, over whatever screen one is on, until they are put away. */
export const Reminders = () => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const answer = useQuery({
    queryKey: remindersKey(),
    queryFn: () => call(listReminders),
    refetchInterval: 120_000,
    meta: { heeds: [heed(remindersEvent)] },
  })
  const reminders = answer.data?.reminders ?? []
  useNotifications(reminders)
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work()
    } catch (error) {
      toast.error(problemWords(error))
    }
    await queries.invalidateQueries({ queryKey: remindersKey() })
  }
  if (reminders.length === 0) return null
  return (
    <section
      aria-label="Reminders"
      aria-live="polite"
      // Beside a sheet, above a meeting in hand, and not over their buttons: what one works on stays free.
      className="on-screen fixed right-4 bottom-[calc(var(--foot,0px)+1rem)] z-30 md:[body:has(.beside)_&]:right-[calc(380px+1rem)] max-h-[60dvh] w-[340px] max-w-[calc(100vw-2rem)] overflow-y-auto"
    >
      <ul className="flex flex-col gap-2">
        {reminders.map((one) => {
          const start = Date.parse(one.start)
          const params = { reminderId: one.id }
          return (
            <li key={one.id} className="rounded-lg border border-line bg-paper p-3 shadow-xl">
              <p className="flex gap-2">
                <Bell size={17} className="mt-0.5 shrink-0 text-gentian" aria-hidden />
                <span>
                  <button
                    type="button"
                    className="text-left font-semibold hover:underline"
                    onClick={() => navigate(one.meeting ? `/now?meeting=${one.entryId}` : '/time')}
                  >
                    {one.title || 'An entry'}
                  </button>{' '}
                  {whenWords(start, now)}
                  <span className="block text-soft text-sm">
                    {clocksInWords(start, Date.parse(one.end), zone)}
                    {one.place && ` · ${one.place}`}
                  </span>
                </span>
              </p>
              <div className="mt-2 flex flex-wrap gap-1.5">
                {SNOOZES.map((minutes) => (
                  <Button
                    key={minutes}
                    tone="quiet"
                    onClick={() => act(() => call(snoozeReminder, { params, body: { minutes } }))}
                  >
                    {lengthInWords(minutes)} later
                  </Button>
                ))}
                <span className="flex-1" />
                <Button onClick={() => act(() => call(dismissReminder, { params }))}>Done</Button>
              </div>
            </li>
          )
        })}
      </ul>
    </section>
  )
}
