import type { Category, OccurrenceOnWire } from '@marmot/contract/entries'
import { ANSWERS } from '@marmot/core/sharing'
import { ListFilter, X } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useMemo } from 'react'
import { useSearchParams } from 'react-router'
import { Button, Field } from '../ui/parts.tsx'

const NAMES = ['category', 'kind', 'organizer', 'answer', 'repeats'] as const
type Name = (typeof NAMES)[number]

/** What is looked for; it stands in the address, so that it can be kept as a bookmark. */
export type Filter = Partial<Record<Name, string>>

/** Whether an entry is what is looked for. */
export const matches = (filter: Filter, one: OccurrenceOnWire): boolean =>
  (!filter.category || one.categoryId === (filter.category === 'none' ? null : filter.category)) &&
  (!filter.kind || (filter.kind === 'meeting' ? one.meeting : !one.meeting)) &&
  (!filter.organizer || (filter.organizer === 'me') === one.own) &&
  (!filter.answer || one.answer === filter.answer) &&
  (!filter.repeats || (filter.repeats === 'yes') === one.repeats)

export const useFilter = () => {
  const [search, setSearch] = useSearchParams()
  const filter = useMemo<Filter>(
    () =>
      Object.fromEntries(NAMES.flatMap((name) => (search.get(name) ? [[name, search.get(name) ?? '']] : []))),
    [search],
  )
  const put = (name: Name, value: string) =>
    setSearch((before) => {
      const next = new URLSearchParams(before)
      if (value) next.set(name, value)
      else next.delete(name)
      return next
    })
  const clear = () =>
    setSearch((before) => {
      const next = new URLSearchParams(before)
      for (const name of NAMES) next.delete(name)
      return next
    })
  return { filter, put, clear, active: Object.keys(filter).length > 0 }
}

const ANSWER_WORDS: Record<string, string> = {
  'needs-action': 'awaits my answer',
  accepted: 'I said yes',
  tentative: 'I said perhaps',
  declined: 'I said no',
  delegated: 'passed on',
}

const CHOICES: Record<Exclude<Name, 'category'>, { label: string; choices: readonly [string, string][] }> = {
  kind: {
    label: 'Kind',
    choices: [
      ['meeting', 'meetings'],
      ['entry', 'entries of my own'],
    ],
  },
  organizer: {
    label: 'Organizer',
    choices: [
      ['me', 'organized by me'],
      ['others', 'organized by others'],
    ],
  },
  answer: { label: 'Answer', choices: ANSWERS.map((each) => [each, ANSWER_WORDS[each] ?? each] as const) },
  repeats: {
    label: 'Repeating',
    choices: [
      ['yes', 'repeating'],
      ['no', 'once only'],
    ],
  },
}

/** Narrows what is shown. */
export const FilterButton = ({
  state,
  categories,
}: {
  state: ReturnType<typeof useFilter>
  categories: readonly Category[]
}) => {
  const { filter, put, clear, active } = state
  const words = NAMES.flatMap((name) => {
    const value = filter[name]
    if (!value) return []
    if (name === 'category')
      return [
        value === 'none' ? 'no category' : (categories.find((each) => each.id === value)?.name ?? 'category'),
      ]
    return [CHOICES[name].choices.find(([each]) => each === value)?.[1] ?? value]
  })
  return (
    <Popover.Root>
      <div className="flex items-center">
        <Popover.Trigger asChild>
          <Button
            tone={active ? 'plain' : 'quiet'}
            aria-label={active ? `Narrowed to ${words.join(', ')}` : 'Narrow'}
          >
            <ListFilter size={15} aria-hidden />
            <span className={`max-w-44 truncate ${active ? '' : '@max-5xl:sr-only'}`}>
              {active ? words.join(', ') : 'Narrow'}
            </span>
          </Button>
        </Popover.Trigger>
        {active && (
          <button
            type="button"
            aria-label="Show everything again"
            onClick={clear}
            className="grid size-7 place-items-center rounded hover:bg-shade"
          >
            <X size={15} aria-hidden />
          </button>
        )}
      </div>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 flex w-64 flex-col gap-2 rounded-md border border-line bg-paper p-3 shadow-xl"
        >
          <Field label="Category">
            {(props) => (
              <select
                {...props}
                value={filter.category ?? ''}
                onChange={(event) => put('category', event.target.value)}
              >
                <option value="">any</option>
                <option value="none">none</option>
                {categories.map((each) => (
                  <option key={each.id} value={each.id}>
                    {each.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          {(['kind', 'organizer', 'answer', 'repeats'] as const).map((name) => (
            <Field key={name} label={CHOICES[name].label}>
              {(props) => (
                <select
                  {...props}
                  value={filter[name] ?? ''}
                  onChange={(event) => put(name, event.target.value)}
                >
                  <option value="">any</option>
                  {CHOICES[name].choices.map(([value, label]) => (
                    <option key={value} value={value}>
                      {label}
                    </option>
                  ))}
                </select>
              )}
            </Field>
          ))}
          <p className="text-soft text-sm">It stands in the address: keep it as a bookmark.</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
