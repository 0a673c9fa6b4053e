import type { Todo } from '@marmot/contract/todo'
import { lengthInWords, shortTime } from '@marmot/core/time'
import { dueInWords, priorityOf, standingOf } from '@marmot/core/todos'
import { useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { dueOf, useTodoWrites } from './todos.ts'

/** What is to be known of a to-do at a glance: when it is due, how long it takes, whose it is, when one means to do it. */
export const todoFacts = (
  todo: Todo,
  { me, now, zone }: { me: string; now: number; zone: ReturnType<typeof useMe>['zone'] },
): string[] => {
  const due = dueOf(todo)
  const [next] = todo.times.filter((time) => Date.parse(time.end) > now)
  const late = standingOf(due, now, zone) === 'late'
  return [
    priorityOf(todo.priority) === 'high' ? 'urgent' : '',
    todo.done || !due ? '' : `${late ? 'was due' : 'due'} ${dueInWords(due, now, zone)}`,
    todo.minutes ? `takes ${lengthInWords(todo.minutes)}` : '',
    todo.percent > 0 && !todo.done ? `${todo.percent} % done` : '',
    todo.ownerId !== me ? `from ${todo.owner}` : todo.given ? `given to ${todo.given}` : '',
    next && !todo.done ? `time set aside ${shortTime(Date.parse(next.start), zone)}` : '',
  ].filter(Boolean)
}

/** One to-do of a list: done with one press, opened by its title. */
export const TodoLine = ({ todo, onOpen }: { todo: Todo; onOpen: () => void }) => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useTodoWrites()
  const [busy, setBusy] = useState(false)
  const toggle = async () => {
    setBusy(true)
    try {
      const done = !todo.done
      await writes.change(
        todo,
        { done, percent: done ? 100 : 0 },
        done ? `${todo.title} is done` : `${todo.title} is to be done again`,
      )
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  const facts = todoFacts(todo, { me: person.id, now, zone })
  return (
    <div className="flex items-start gap-1">
      <label className="grid size-8 shrink-0 cursor-pointer place-items-center max-md:size-thumb">
        <input
          type="checkbox"
          aria-label={`Done: ${todo.title}`}
          // As it is wished, until the answer is there.
          checked={todo.done !== busy}
          disabled={busy}
          onChange={toggle}
          className="size-[18px] accent-busy"
        />
      </label>
      <button
        type="button"
        onClick={onOpen}
        className="min-w-0 flex-1 rounded px-1 py-1 text-left hover:bg-shade/60 max-md:min-h-thumb"
      >
        <span className={`block truncate ${todo.done ? 'text-soft' : 'font-semibold'}`}>{todo.title}</span>
        {facts.length > 0 && <span className="block text-soft text-sm">{facts.join(' · ')}</span>}
      </button>
    </div>
  )
}
