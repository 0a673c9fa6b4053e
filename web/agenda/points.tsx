import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  type UniqueIdentifier,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import {
  type AgendaItem,
  addItem,
  MOST_NAME,
  MOST_TITLE,
  minutesIn,
  moveItem,
  onItems,
  readAgenda,
  removeItem,
  retitleItem,
  setItem,
  sumInWords,
} from '@marmot/core/agenda'
import { GripVertical, Plus, X } from 'lucide-react'
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from 'react'
import * as Y from 'yjs'
import { toast } from '../platform/toast.ts'
import { Button, flowerOf } from '../ui/parts.tsx'
import type { Other, Together } from './together.ts'

const FIELD =
  'min-h-8 rounded-md border border-transparent bg-transparent px-2 py-1 hover:border-line focus:border-soft/50 focus:bg-paper max-md:min-h-thumb'

/** The points of an agenda as they stand, anew whenever somebody changes them. */
const useItems = (document: Y.Doc): readonly AgendaItem[] => {
  const [items, setItems] = useState(() => readAgenda(document).items)
  useEffect(() => {
    const read = () => setItems(readAgenda(document).items)
    read()
    return onItems(document, read)
  }, [document])
  return items
}

/** Others who are in one point just now. */
const Here = ({ others }: { others: readonly Other[] }) =>
  others.map((one) => (
    <span key={one.client} className="flex items-center gap-1.5 whitespace-nowrap text-sm">
      <span className="size-2.5 rounded-full" style={{ background: flowerOf(one.name) }} aria-hidden />
      {one.name}
    </span>
  ))

/** What a screen reader hears while a point is moved: the point by its title, and where it stands. */
const announced = (items: readonly AgendaItem[]): Announcements => {
  const number = (id: UniqueIdentifier) => items.findIndex((one) => one.id === id) + 1
  const called = (id: UniqueIdentifier) => items[number(id) - 1]?.title.trim() || `Point ${number(id)}`
  const taken = (id: UniqueIdentifier) => `${called(id)} is taken up: point ${number(id)} of ${items.length}.`
  return {
    onDragStart: ({ active }) => taken(active.id),
    // Over itself is where it begins, and is said as that.
    onDragOver: ({ active, over }) =>
      over && over.id !== active.id
        ? `${called(active.id)} goes to place ${number(over.id)}.`
        : taken(active.id),
    onDragEnd: ({ active, over }) => `${called(active.id)} is point ${number(over?.id ?? active.id)} now.`,
    onDragCancel: ({ active }) => `${called(active.id)} stays point ${number(active.id)}.`,
  }
}

const HOW_TO_MOVE = {
  draggable:
    'Space takes the point up, the arrows move it, Space puts it down, and Escape leaves it where it was.',
}

interface PointProps {
  readonly item: AgendaItem
  readonly number: number
  readonly names: string
  readonly others: readonly Other[]
  readonly document: Y.Doc
  readonly onFocus: (here: boolean) => void
  readonly onNext: () => void
  readonly onRemove: () => void
}

const Point = ({ item, number, names, others, document, onFocus, onNext, onRemove }: PointProps) => {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id: item.id })
  const called = item.title.trim() || `point ${number}`
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      onFocus={() => onFocus(true)}
      onBlur={() => onFocus(false)}
      className={`grid grid-cols-[auto_1.6em_1fr_auto_auto_auto] items-center gap-x-1 border-line border-t bg-paper py-0.5 max-md:grid-cols-[auto_1.6em_1fr_auto] ${isDragging ? 'relative z-10 shadow-lg' : ''}`}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        aria-label={`Move ${called}`}
        className="grid size-7 cursor-grab touch-none place-items-center rounded text-soft hover:bg-shade max-md:size-thumb"
        {...attributes}
        {...listeners}
      >
        <GripVertical size={15} aria-hidden />
      </button>
      <span className="text-right text-soft tabular-nums">{number}.</span>
      <span className="flex min-w-0 gap-1">
        <input
          aria-label={`Point ${number}`}
          data-point={item.id}
          value={item.title}
          maxLength={MOST_TITLE}
          placeholder="What to discuss"
          className={`${FIELD} min-w-0 flex-1`}
          onChange={(event) => retitleItem(document, item.id, event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && !event.nativeEvent.isComposing) {
              event.preventDefault()
              onNext()
            }
            if (event.key === 'Backspace' && item.title === '') {
              event.preventDefault()
              onRemove()
            }
          }}
        />
        <Here others={others} />
      </span>
      <input
        aria-label={`Who leads ${called}`}
        list={names}
        value={item.who}
        maxLength={MOST_NAME}
        placeholder="who"
        className={`${FIELD} w-36 max-md:order-1 max-md:col-start-3 max-md:w-auto`}
        onChange={(event) => setItem(document, item.id, { who: event.target.value })}
      />
      <label className="flex items-center gap-1 text-soft text-sm max-md:order-1 max-md:pr-2">
        <input
          aria-label={`Minutes for ${called}`}
          inputMode="numeric"
          value={item.minutes ?? ''}
          className={`${FIELD} w-12 text-right tabular-nums text-ink`}
          onChange={(event) => setItem(document, item.id, { minutes: minutesIn(event.target.value) })}
        />
        min
      </label>
      <button
        type="button"
        aria-label={`Take out ${called}`}
        className="grid size-7 place-items-center rounded text-soft hover:bg-shade max-md:size-thumb max-md:justify-self-end"
        onClick={onRemove}
      >
        <X size={15} aria-hidden />
      </button>
    </li>
  )
}

/** The points of an agenda: who, how long, in which order; each typed, dragged and taken out while others do, too. */
export const Points = ({
  together: { document, provider },
  others,
  people,
  length,
}: {
  readonly together: Together
  readonly others: readonly Other[]
  /** Names that are offered for who leads a point. */
  readonly people: readonly string[]
  /** Of the meeting, in minutes. */
  readonly length: number
}) => {
  const items = useItems(document)
  const list = useRef<HTMLDivElement>(null)
  const names = useId()
  const past = useMemo(() => new Y.UndoManager(document.getMap('items')), [document])
  useEffect(() => () => past.destroy(), [past])
  const sensors = useSensors(
    useSensor(PointerSensor),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  // Where one types next; before the next key is pressed, or a space would press what was pressed last once more.
  const wanted = useRef<string | undefined>(undefined)
  useLayoutEffect(() => {
    const field = items.some((one) => one.id === wanted.current)
      ? list.current?.querySelector<HTMLElement>(`[data-point="${wanted.current}"]`)
      : null
    if (!field) return
    field.focus()
    wanted.current = undefined
  }, [items])
  const add = (after?: number) => {
    const id = crypto.randomUUID()
    past.stopCapturing()
    wanted.current = id
    if (!addItem(document, id)) {
      toast.error('An agenda has at most 100 points.')
      return
    }
    if (after !== undefined) moveItem(document, id, after)
  }
  const remove = (item: AgendaItem, i: number) => {
    past.stopCapturing()
    wanted.current = items[i - 1]?.id ?? items[i + 1]?.id
    removeItem(document, item.id)
    // What was never written is not missed.
    if (!item.title && !item.who && item.minutes === null) return
    toast(`Taken out: ${item.title.trim() || `point ${i + 1}`}`, {
      duration: 8000,
      action: { label: 'Undo', onClick: () => past.undo() },
    })
  }
  const drop = ({ active, over }: DragEndEvent) => {
    const to = items.findIndex((one) => one.id === over?.id)
    past.stopCapturing()
    if (over && active.id !== over.id && to >= 0) moveItem(document, String(active.id), to)
  }
  const sum = sumInWords(items, length)
  const long = items.reduce((all, one) => all + (one.minutes ?? 0), 0) > length
  return (
    <div ref={list}>
      <datalist id={names}>
        {people.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      {items.length === 0 && <p className="py-1 text-soft">No points yet.</p>}
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={drop}
        accessibility={{ announcements: announced(items), screenReaderInstructions: HOW_TO_MOVE }}
      >
        <SortableContext items={items.map((one) => one.id)} strategy={verticalListSortingStrategy}>
          <ol>
            {items.map((item, i) => (
              <Point
                key={item.id}
                item={item}
                number={i + 1}
                names={names}
                others={others.filter((one) => one.item === item.id)}
                document={document}
                onFocus={(here) => provider.awareness.setLocalStateField('item', here ? item.id : null)}
                onNext={() => add(i + 1)}
                onRemove={() => remove(item, i)}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-line border-t pt-2">
        <Button onClick={() => add()} className="max-md:min-h-thumb">
          <Plus size={15} aria-hidden /> Add a point
        </Button>
        <span aria-live="polite" className={long ? 'font-semibold text-coral' : 'text-soft'}>
          {long ? '⚠ ' : ''}
          {sum}
        </span>
      </div>
    </div>
  )
}
