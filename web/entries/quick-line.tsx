import { type ReadLine, readLine } from '@marmot/core/entries'
import { ruleInWords } from '@marmot/core/recurrence'
import { instantOf, lengthInWords, MINUTE, spanInWords, wallOf, wallText } from '@marmot/core/time'
import { type RefObject, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button } from '../ui/parts.tsx'
import type { Editing } from './use-entry-form.ts'
import { useEntryWrites } from './writes.ts'

/** Makes an entry from one line of text, saying what was understood before it is made. */
export const QuickLine = ({
  inputRef,
  of,
  todos,
  onMore,
  onMade,
}: {
  inputRef: RefObject<HTMLInputElement | null>
  of: string | undefined
  /** Lines that begin otherwise, and are to be to-dos. */
  todos: {
    readonly isOne: (text: string) => boolean
    /** What was understood; null where it is too little. */
    readonly read: (text: string) => { readonly title: string; readonly words: string } | null
    readonly make: (text: string) => Promise<unknown>
  }
  onMore: (editing: Editing) => void
  onMade: (start: number) => void
}) => {
  const { person, zone } = useMe()
  const now = useNow()
  const writes = useEntryWrites()
  const [text, setText] = useState('')
  const [focused, setFocused] = useState(false)
  const [trouble, setTrouble] = useState('')
  const isTodo = todos.isOne(text)
  const todo = isTodo ? todos.read(text) : null
  const line = text.trim() && !isTodo ? readLine(text, now, zone) : null
  const wall = line ? wallOf(line.day, line.minute) : 0
  const start = instantOf(zone, wall)
  const end = line?.allDay
    ? instantOf(zone, wall + line.minutes * MINUTE)
    : start + (line?.minutes ?? 0) * MINUTE
  const done = () => {
    setText('')
    setTrouble('')
    inputRef.current?.blur()
  }
  /** The line is free for the next entry at once; what could not be made comes back into it, unless it is in use. */
  const make = async (read: ReadLine) => {
    await writes.make(
      {
        title: read.title,
        place: read.place,
        starts: wallText(wall),
        minutes: read.minutes,
        allDay: read.allDay,
        zone: person.zone,
        repetition: read.rule ? { rule: read.rule, added: [], excepted: [] } : null,
        ...(of ? { of } : {}),
      },
      crypto.randomUUID(),
    )
    onMade(start)
  }
  const attempt = async (work: () => Promise<unknown>) => {
    const typed = text
    done()
    try {
      await work()
    } catch (error) {
      if (inputRef.current?.value === '') {
        setText(typed)
        setTrouble(problemWords(error))
        inputRef.current.focus()
      } else toast.error(`Not made: ${typed}. ${problemWords(error)}`)
    }
  }
  return (
    <form
      className="relative min-w-24 flex-1 max-md:order-first max-md:basis-full"
      onFocus={() => setFocused(true)}
      onBlur={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget)) setFocused(false)
      }}
      onSubmit={(event) => {
        event.preventDefault()
        if (todo) void attempt(() => todos.make(text))
        else if (line) void attempt(() => make(line))
      }}
    >
      <input
        ref={inputRef}
        aria-label="Write an entry in one line"
        placeholder="Core freezer defrost thu 10:45 45m at Firn"
        value={text}
        onChange={(event) => {
          setText(event.target.value)
          setTrouble('')
        }}
        onKeyDown={(event) => {
          if (event.key === 'Escape') done()
        }}
        className="w-full rounded-md border border-soft/50 bg-paper px-2.5 py-1"
      />
      {focused && text.trim() !== '' && (
        <div
          role="status"
          className="absolute top-full left-0 z-30 w-full min-w-96 mt-1 flex flex-wrap items-center justify-end gap-x-2 gap-y-1.5 rounded-md border border-line bg-paper px-3 py-2 shadow-xl"
        >
          {todo ? (
            <>
              <span className="min-w-0 basis-full">
                To do: <b className="font-semibold">{todo.title}</b>
                <br />
                {todo.words}
              </span>
              <Button tone="primary" type="submit">
                Put it on the list
              </Button>
            </>
          ) : line ? (
            <>
              <span className="min-w-0 basis-full">
                <b className="font-semibold">{line.title}</b>
                {line.place && <> at {line.place}</>}
                <br />
                {spanInWords(start, end, zone, now)} · {lengthInWords(line.minutes)}
                {line.rule && <> · {ruleInWords(line.rule, wall)}</>}
                {line.assumed.length > 0 && <span className="text-soft"> ({line.assumed.join('; ')})</span>}
              </span>
              <Button
                onClick={() => {
                  onMore({
                    start,
                    end,
                    date: null,
                    said: { title: line.title, place: line.place, allDay: line.allDay, rule: line.rule },
                  })
                  done()
                }}
              >
                More…
              </Button>
              <Button tone="primary" type="submit">
                Make it
              </Button>
            </>
          ) : (
            <span className="text-soft">
              {isTodo ? 'Say what is to be done, too: “todo order saw blades fri”.' : 'Give it a title, too.'}
            </span>
          )}
          {trouble && <span className="basis-full text-coral">⚠ {trouble}</span>}
        </div>
      )}
    </form>
  )
}
