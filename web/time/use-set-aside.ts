import { nextFree } from '@marmot/core/availability'
import { DAY, MINUTE, minutesBetween, toWall, wallText } from '@marmot/core/time'
import { lateFrom } from '@marmot/core/todos'
import { useEffect, useRef } from 'react'
import { useSearchParams } from 'react-router'
import { useEntryWrites } from '../entries/writes.ts'
import type { Chosen } from '../lanes/types.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useCarried } from '../todos/carried.ts'
import { dueOf, useTodos } from '../todos/todos.ts'
import type { Days } from './use-days.ts'
import { type Hand, NEW_MINUTES } from './use-hand.ts'

/** Time is looked for so far ahead for what has no day. */
const AHEAD = 14 * DAY

/**
 * Setting time aside for what is to be done: dragged onto the days, or asked for by `plan` in the address, where the next free time
 * before it is due is proposed.
 */
export const useSetAside = (days: Days, hand: Hand) => {
  const { person, zone } = useMe()
  const [search, setSearch] = useSearchParams()
  const carried = useCarried()
  const writes = useEntryWrites()
  const { now } = days.view
  const asked = search.get('plan')
  const { data } = useTodos(asked !== null)
  const plan = asked ? data?.todos.find((todo) => todo.id === asked) : undefined
  const known = days.entries.isSuccess
  const { edit, show } = hand
  const { lane } = days
  const proposed = useRef<string | null>(null)
  useEffect(() => {
    if (!asked) proposed.current = null
    // Once: the address says so until it has been changed.
    if (!plan || !known || proposed.current === plan.id) return
    proposed.current = plan.id
    const minutes = plan.minutes ?? NEW_MINUTES
    const due = dueOf(plan)
    const last = due ? lateFrom(due, zone) : 0
    const until = last > now + minutes * MINUTE ? Math.min(last, now + AHEAD) : now + AHEAD
    const from = Math.ceil(now / (15 * MINUTE)) * 15 * MINUTE
    const start = nextFree(lane, zone, from, until, minutes) ?? from
    show(start)
    edit({
      start,
      end: start + minutes * MINUTE,
      date: null,
      said: { title: plan.title },
      todoId: plan.id,
    })
    setSearch(
      (before) => {
        const next = new URLSearchParams(before)
        for (const name of ['plan', 'todo']) next.delete(name)
        return next
      },
      { replace: true },
    )
  }, [asked, plan, known, lane, now, zone, edit, show, setSearch])
  return {
    carried: carried && { minutes: carried.minutes ?? NEW_MINUTES },
    setAside: async ({ start, end }: Chosen) => {
      if (!carried) return
      try {
        await writes.make(
          {
            title: carried.title,
            starts: wallText(toWall(zone, start)),
            minutes: minutesBetween(start, end),
            zone: person.zone,
            todoId: carried.id,
          },
          crypto.randomUUID(),
        )
      } catch (error) {
        toast.error(problemWords(error))
      }
    },
  }
}
