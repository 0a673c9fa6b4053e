import type { Todo } from '@marmot/contract/todo'
import { Empty } from '../ui/parts.tsx'
import { TodoLine } from './todo-line.tsx'
import { useTodoInAddress } from './todos.ts'

/** What is due, under Now: the nearest, and the way to all of it. */
export const TodosNow = ({ todos }: { todos: readonly Todo[] }) => {
  const { show } = useTodoInAddress()
  return (
    <div className="rounded-lg bg-paper py-1">
      {todos.length ? (
        <ul className="px-2">
          {todos.map((todo) => (
            <li key={todo.id}>
              <TodoLine todo={todo} onOpen={() => show(todo.id)} />
            </li>
          ))}
        </ul>
      ) : (
        <div className="px-4">
          <Empty>Nothing is due in the next seven days.</Empty>
        </div>
      )}
      <button
        type="button"
        onClick={() => show('list')}
        className="mx-4 my-1 min-h-8 rounded text-gentian underline underline-offset-2 max-md:min-h-thumb"
      >
        All that is to be done…
      </button>
    </div>
  )
}
