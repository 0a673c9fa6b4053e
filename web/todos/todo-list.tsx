import type { Todo } from '@marmot/contract/todo'
import { GripVertical } from 'lucide-react'
import { useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { carry } from './carried.ts'
import { TodoLine } from './todo-line.tsx'
import { inSections, useTodos, useTodoWrites } from './todos.ts'
import { useTodoTyped } from './typed.ts'

/** Writes a to-do in one line, saying what was understood. */
const Line = () => {
  const typed = useTodoTyped()
  const writes = useTodoWrites()
  const [text, setText] = useState('')
  const read = text.trim() ? typed(text) : null
  const make = async () => {
    if (!read) return
    const was = text
    setText('')
    try {
      await writes.make(read.body, crypto.randomUUID())
    } catch (error) {
      setText((now) => now || was)
      toast.error(problemWords(error))
    }
  }
  return (
    <form
      className="mb-2"
      onSubmit={(event) => {
        event.preventDefault()
        void make()
      }}
    >
      <div className="flex gap-2">
        <input
          data-first
          aria-label="Write a to-do in one line"
          placeholder="Order saw blades fri 30m"
          value={text}
          maxLength={300}
          onChange={(event) => setText(event.target.value)}
          className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2.5 py-1"
        />
        <Button type="submit" tone={read ? 'primary' : 'plain'} disabled={!read}>
          Add
        </Button>
      </div>
      <p role="status" className="min-h-5 pt-0.5 text-soft text-sm">
        {read && (
          <>
            <b className="font-semibold text-ink">{read.body.title}</b> · {read.words}
          </>
        )}
      </p>
    </form>
  )
}

/** A line that can be dragged onto free time of one's days. */
const Dragged = ({ todo, onOpen }: { todo: Todo; onOpen: (id: string) => void }) => (
  <li
    draggable
    title="Drag it onto free time to set time aside for it"
    onDragStart={(event) => {
      event.dataTransfer.effectAllowed = 'copy'
      event.dataTransfer.setData('text/plain', todo.title)
      carry(todo)
    }}
    onDragEnd={() => carry(null)}
    className="-ml-2 flex items-start [&:hover>svg]:opacity-100"
  >
    <GripVertical
      size={14}
      className="mt-2 -mr-1 shrink-0 cursor-grab text-soft opacity-40 max-md:hidden"
      aria-hidden
    />
    <div className="min-w-0 flex-1">
      <TodoLine todo={todo} onOpen={() => onOpen(todo.id)} />
    </div>
  </li>
)

/** What is to be done, by when it is due; what was done lately is folded away. */
const Sections = ({
  known,
  onOpen,
}: {
  known: { readonly todos: readonly Todo[]; readonly more: boolean }
  onOpen: (id: string) => void
}) => {
  const { zone } = useMe()
  const now = useNow()
  const sections = inSections(known.todos, now, zone)
  const done = known.todos.filter((todo) => todo.done)
  return (
    <>
      {sections.length === 0 && (
        <Empty>Nothing is to be done. Write something above, or “todo …” in the line over your days.</Empty>
      )}
      {sections.map((section) => (
        <section key={section.id} aria-label={section.words} className="mb-3">
          <h3 className="mb-0.5 text-soft text-sm">
            {section.words} <span className="tabular-nums">({section.todos.length})</span>
          </h3>
          <ul>
            {section.todos.map((todo) => (
              <Dragged key={todo.id} todo={todo} onOpen={onOpen} />
            ))}
          </ul>
        </section>
      ))}
      {known.more && <p className="text-soft text-sm">There are more than are shown here.</p>}
      {done.length > 0 && (
        <details className="border-line border-t pt-2">
          <summary className="min-h-8 cursor-pointer text-soft max-md:min-h-thumb">
            Done in the last two weeks ({done.length})
          </summary>
          <ul>
            {done.map((todo) => (
              <li key={todo.id}>
                <TodoLine todo={todo} onOpen={() => onOpen(todo.id)} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  )
}

/** What is to be done, and a line to write more of it, which is there at once. */
export const TodoList = ({ onOpen }: { onOpen: (id: string) => void }) => {
  const todos = useTodos()
  return (
    <>
      <Line />
      {todos.isPending ? (
        <Loading what="your to-dos" />
      ) : todos.isError ? (
        <Trouble action={<Button onClick={() => todos.refetch()}>Try again</Button>}>
          {problemWords(todos.error)}
        </Trouble>
      ) : (
        <Sections known={todos.data} onOpen={onOpen} />
      )}
    </>
  )
}
