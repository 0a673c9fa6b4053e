import type { Todo } from '@marmot/contract/todo'
import { textOfNote } from '@marmot/core/entries'
import { shortTime } from '@marmot/core/time'
import { CalendarPlus } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { About } from '../contacts/about.tsx'
import { problemCode, problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, Empty, Field, Loading, Trouble } from '../ui/parts.tsx'
import { Sheet, SheetFoot, useLateFirst } from '../ui/sheet.tsx'
import { HowFar, TodoForm } from './todo-form.tsx'
import { todoFacts } from './todo-line.tsx'
import { TodoList } from './todo-list.tsx'
import { useTodo, useTodoInAddress, useTodoWrites } from './todos.ts'

/** Gives back what a colleague gave, with a word. */
const GiveBack = ({ todo, onDone, onClose }: { todo: Todo; onDone: () => void; onClose: () => void }) => {
  const writes = useTodoWrites()
  const [words, setWords] = useState('')
  const [busy, setBusy] = useState(false)
  const give = async () => {
    setBusy(true)
    try {
      await writes.change(todo, { givenTo: null }, `${todo.owner} has ${todo.title} back, and is told`, words)
      onDone()
    } catch (error) {
      toast.error(problemWords(error))
      setBusy(false)
    }
  }
  return (
    <div className="rounded-md bg-shade px-3 py-2">
      <Field label={`A word to ${todo.owner}`}>
        {(props) => (
          <input
            {...props}
            value={words}
            maxLength={500}
            placeholder="I am in Nairobi all week"
            onChange={(event) => setWords(event.target.value)}
          />
        )}
      </Field>
      <div className="mt-2 flex justify-end gap-2">
        <Button onClick={onClose}>Keep it</Button>
        <Button tone="primary" disabled={busy} onClick={give}>
          {busy ? 'Giving back…' : 'Give it back'}
        </Button>
      </div>
    </div>
  )
}

/** One to-do: what it says, and what can be done with it. */
const TodoRead = ({ todo, onChange, onGone }: { todo: Todo; onChange: () => void; onGone: () => void }) => {
  const { person, zone } = useMe()
  const now = useNow()
  const navigate = useNavigate()
  const writes = useTodoWrites()
  const [busy, setBusy] = useState(false)
  const [giving, setGiving] = useState(false)
  const mine = todo.ownerId === person.id
  const first = useLateFirst<HTMLButtonElement>()
  const attempt = async (work: () => Promise<unknown>) => {
    setBusy(true)
    try {
      await work()
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  const facts = todoFacts({ ...todo, times: [] }, { me: person.id, now, zone })
  return (
    <div className="flex min-h-full flex-col gap-3">
      {facts.length > 0 && <p>{facts.join(' · ')}</p>}
      {todo.doneAt && <p>Done {shortTime(Date.parse(todo.doneAt), zone)}</p>}
      {todo.note && <p className="whitespace-pre-wrap">{textOfNote(todo.note)}</p>}
      <About subject={{ kind: 'todo', id: todo.id }} />
      {todo.times.length > 0 && (
        <section aria-label="Time set aside">
          <h3 className="text-soft text-sm">Time set aside</h3>
          <ul>
            {todo.times.map((time) => (
              <li key={`${time.entryId} ${time.recurrence}`}>{shortTime(Date.parse(time.start), zone)}</li>
            ))}
          </ul>
        </section>
      )}
      {!mine && !todo.done && (
        <HowFar
          value={todo.percent}
          onChange={(percent) =>
            attempt(() =>
              writes.change(todo, { percent, done: percent === 100 }, `${todo.title}: ${percent} % done`),
            )
          }
        />
      )}
      {giving ? (
        <GiveBack todo={todo} onDone={onGone} onClose={() => setGiving(false)} />
      ) : (
        !mine &&
        !todo.done && (
          <Button className="self-start" onClick={() => setGiving(true)}>
            Give it back…
          </Button>
        )
      )}
      <SheetFoot>
        {mine && (
          <Button
            tone="quiet"
            className="mr-auto text-coral"
            disabled={busy}
            onClick={() =>
              attempt(async () => {
                await writes.remove(todo)
                onGone()
              })
            }
          >
            Delete
          </Button>
        )}
        {mine && <Button onClick={onChange}>Change…</Button>}
        {!todo.done && (
          <Button onClick={() => navigate(`/time?plan=${todo.id}`)}>
            <CalendarPlus size={16} aria-hidden /> Set time aside…
          </Button>
        )}
        <Button
          tone="primary"
          ref={first}
          data-first
          disabled={busy}
          onClick={() =>
            attempt(() =>
              writes.change(
                todo,
                { done: !todo.done, percent: todo.done ? 0 : 100 },
                todo.done ? `${todo.title} is to be done again` : `${todo.title} is done`,
              ),
            )
          }
        >
          {todo.done ? 'Not done yet' : 'Done'}
        </Button>
      </SheetFoot>
    </div>
  )
}

/** What is to be done, beside whichever screen one is on: the list, one of it, or a new one. */
export const TodoSheet = () => {
  const { open, show } = useTodoInAddress()
  const one = useTodo(open && open !== 'list' && open !== 'new' ? open : null)
  const [changing, setChanging] = useState<string | null>(null)
  if (!open) return null
  const todo = one.data
  const list = open === 'list'
  const title = list ? 'To do' : open === 'new' ? 'New to-do' : (todo?.title ?? 'To do')
  return (
    // Another sheet for another: the focus goes to what one came for.
    <Sheet key={open} open onClose={() => show(list ? null : 'list')} title={title}>
      {list ? (
        <TodoList onOpen={show} />
      ) : open === 'new' ? (
        <TodoForm todo={null} onDone={() => show('list')} onClose={() => show('list')} />
      ) : one.isPending ? (
        <Loading what="the to-do" />
      ) : one.isError && problemCode(one.error) === 'not-found' ? (
        <Empty>
          This is not on your list any more: it was deleted, given back, or given to somebody else.
        </Empty>
      ) : !todo ? (
        <Trouble action={<Button onClick={() => one.refetch()}>Try again</Button>}>
          {problemWords(one.error)}
        </Trouble>
      ) : changing === todo.id ? (
        <TodoForm todo={todo} onDone={() => setChanging(null)} onClose={() => setChanging(null)} />
      ) : (
        <TodoRead
          key={todo.id}
          todo={todo}
          onChange={() => setChanging(todo.id)}
          onGone={() => show('list')}
        />
      )}
    </Sheet>
  )
}
