import type { DueTodo } from '@marmot/contract/todo'
import { useTodoInAddress } from './todos.ts'

/** What is due on a day, beside its date: the one thing by its title, several by their number. */
export const DueLabel = ({ todos }: { todos: readonly DueTodo[] }) => {
  const { show } = useTodoInAddress()
  const [first] = todos
  if (!first) return null
  const one = todos.length === 1
  return (
    <button
      type="button"
      title={todos.map((todo) => todo.title).join('\n')}
      aria-label={`Due: ${todos.map((todo) => todo.title).join(', ')}`}
      onClick={() => show(one ? first.id : 'list')}
      className="block max-w-full truncate rounded text-[12px] text-soft leading-[15px] hover:underline max-md:min-h-thumb md:ml-auto"
    >
      <i
        className="mr-1 inline-block size-[9px] rounded-[2px] border-[1.5px] border-soft align-[-0.5px]"
        aria-hidden
      />
      {one ? first.title : `${todos.length} due`}
    </button>
  )
}
