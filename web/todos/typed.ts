import { wallOf, wallText } from '@marmot/core/time'
import { dueInWords, isTodoLine, readTodoLine } from '@marmot/core/todos'
import { useMe, useNow } from '../platform/session.tsx'
import { type TodoBody, useTodoWrites } from './todos.ts'

/** A to-do from what was typed in one line; null where there is no title. */
export const useTodoTyped = () => {
  const { person, zone } = useMe()
  const now = useNow()
  return (text: string): { readonly body: TodoBody; readonly words: string } | null => {
    const read = readTodoLine(text, now, zone)
    if (!read) return null
    const due = read.day === null ? null : wallText(wallOf(read.day, read.minute ?? 0))
    const when =
      read.day === null
        ? null
        : read.minute === null
          ? { day: read.day }
          : { wall: wallOf(read.day, read.minute), zone }
    return {
      body: {
        title: read.title,
        due,
        dueAllDay: read.minute === null,
        zone: person.zone,
        minutes: read.minutes,
        priority: read.urgent ? 1 : 0,
      },
      words: [
        when ? `due ${dueInWords(when, now, zone)}` : 'no day',
        read.minutes ? `takes ${read.minutes} min` : '',
        read.urgent ? 'urgent' : '',
      ]
        .filter(Boolean)
        .join(' · '),
    }
  }
}

/** Lines over one's days that are to be to-dos; none over somebody else's. */
export const useLineTodos = (mine: boolean) => {
  const typed = useTodoTyped()
  const writes = useTodoWrites()
  return {
    isOne: (text: string) => mine && isTodoLine(text),
    read: (text: string) => {
      const read = typed(text)
      return read && { title: read.body.title, words: read.words }
    },
    make: async (text: string) => {
      const read = typed(text)
      if (read) await writes.make(read.body, crypto.randomUUID())
    },
  }
}
