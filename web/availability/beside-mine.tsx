import type { Layer } from '@marmot/contract/layers'
import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Eye, EyeOff, Layers, X } from 'lucide-react'
import { useRef, useState } from 'react'
import { useFeeds } from '../feeds/feeds.ts'
import { PeopleSearch } from '../people/people-search.tsx'
import { useResources } from '../resources/resources.ts'
import { Button, flower, TONES_COUNT } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import type { KnownLayer, useLayerSets } from './layers.ts'

/** A field that was just asked for is where one types next. */
const focusOnSight = (field: HTMLInputElement | null): void => field?.focus()

const SMALL = 'grid size-7 place-items-center rounded hover:bg-shade max-md:size-thumb'

/** One layer: whose it is, its colour, whether it is shown, and at which level one looks at it. */
const Row = ({
  layer,
  onChange,
  onMove,
  onRemove,
}: {
  layer: KnownLayer
  onChange: (change: Partial<Layer>) => void
  onMove: (by: 1 | -1) => void
  onRemove: () => void
}) => (
  <li className="flex items-center border-line border-t py-0.5">
    <button
      type="button"
      title="Another colour"
      aria-label={`Another colour for ${layer.name}`}
      onClick={() => onChange({ tone: (layer.tone + 1) % TONES_COUNT })}
      className={SMALL}
    >
      <i className="size-3.5 rounded-full" style={{ background: layer.colour }} />
    </button>
    <span className={`min-w-0 flex-1 truncate ${layer.shown ? '' : 'text-soft'}`}>
      {layer.name} <span className="text-soft text-sm">{layer.about}</span>
    </span>
    {layer.kind === 'team' && (
      <button
        type="button"
        aria-expanded={layer.open}
        aria-label={layer.open ? `${layer.name} as one row` : `The people of ${layer.name}, a row each`}
        title={layer.open ? 'As one row' : 'A row each'}
        className={SMALL}
        onClick={() => onChange({ open: !layer.open })}
      >
        {layer.open ? <ChevronDown size={15} aria-hidden /> : <ChevronRight size={15} aria-hidden />}
      </button>
    )}
    <button
      type="button"
      aria-label={layer.shown ? `Hide ${layer.name}` : `Show ${layer.name}`}
      aria-pressed={layer.shown}
      className={SMALL}
      onClick={() => onChange({ shown: !layer.shown })}
    >
      {layer.shown ? <Eye size={15} aria-hidden /> : <EyeOff size={15} aria-hidden />}
    </button>
    <button
      type="button"
      aria-label={`${layer.name} further up`}
      className={SMALL}
      onClick={() => onMove(-1)}
    >
      <ArrowUp size={14} aria-hidden />
    </button>
    <button
      type="button"
      aria-label={`${layer.name} further down`}
      className={SMALL}
      onClick={() => onMove(1)}
    >
      <ArrowDown size={14} aria-hidden />
    </button>
    <button type="button" aria-label={`Remove ${layer.name}`} className={SMALL} onClick={onRemove}>
      <X size={14} aria-hidden />
    </button>
  </li>
)

/** Adds somebody, a team, a place or a calendar address. */
const AddLayer = ({
  taken,
  onAdd,
}: {
  taken: ReadonlySet<string>
  onAdd: (layers: Pick<Layer, 'kind' | 'id'>[]) => void
}) => {
  const input = useRef<HTMLInputElement>(null)
  const places = useResources(true).data?.resources ?? []
  const feeds = useFeeds()
  const select = (label: string, kind: Layer['kind'], choices: readonly { id: string; name: string }[]) =>
    choices.length > 0 && (
      <select
        aria-label={label}
        value=""
        onChange={(event) => onAdd([{ kind, id: event.target.value }])}
        className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 py-1 text-sm"
      >
        <option value="">{label}</option>
        {choices
          .filter((each) => !taken.has(each.id))
          .map((each) => (
            <option key={each.id} value={each.id}>
              {each.name}
            </option>
          ))}
      </select>
    )
  return (
    <div className="flex flex-col gap-2">
      <PeopleSearch
        inputRef={input}
        taken={taken}
        onPeople={(people) =>
          onAdd(people.filter((one) => !taken.has(one.id)).map((one) => ({ kind: 'person', id: one.id })))
        }
        onTeam={(team) => taken.has(team.id) || onAdd([{ kind: 'team', id: team.id }])}
      />
      <div className="flex gap-2">
        {select(
          'Add a place',
          'place',
          [...places].sort((a, b) => a.name.localeCompare(b.name)),
        )}
        {select('Add a calendar address', 'feed', feeds.data?.read ?? [])}
      </div>
    </div>
  )
}

/** The name of what stands beside mine now, and others that were kept. */
const Sets = ({ sets, some }: { sets: ReturnType<typeof useLayerSets>; some: boolean }) => {
  const [naming, setNaming] = useState<string | null>(null)
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      {some &&
        (naming === null ? (
          <button
            type="button"
            className="min-h-7 text-gentian underline underline-offset-2 max-md:min-h-thumb"
            onClick={() => setNaming(sets.current?.name ?? '')}
          >
            {sets.current?.name ? `Kept as: ${sets.current.name}` : 'Keep these under a name'}
          </button>
        ) : (
          <form
            onSubmit={(event) => {
              event.preventDefault()
              if (sets.current) sets.keep({ ...sets.current, name: naming.trim() })
              setNaming(null)
            }}
          >
            <input
              ref={focusOnSight}
              aria-label="Name for these"
              value={naming}
              maxLength={60}
              onChange={(event) => setNaming(event.target.value)}
              onBlur={() => setNaming(null)}
              className="w-40 rounded border border-soft/50 bg-paper px-1.5 py-0.5"
            />
          </form>
        ))}
      {(sets.sets.length > 1 || (sets.current?.name && some)) && (
        <select
          aria-label="Others that are kept"
          value=""
          onChange={(event) => {
            if (event.target.value === 'new') {
              sets.keep({ id: crypto.randomUUID(), name: '', layers: [] })
              return
            }
            const set = sets.sets.find((each) => each.id === event.target.value)
            if (set) sets.keep(set)
          }}
          className="rounded-md border border-soft/50 bg-paper px-1.5 py-0.5"
        >
          <option value="">others that are kept…</option>
          {sets.sets.slice(1).map((set) => (
            <option key={set.id} value={set.id}>
              {set.name || `${set.layers.length} without a name`}
            </option>
          ))}
          <option value="new">begin anew</option>
        </select>
      )}
    </div>
  )
}

/**
 * Whose time stands beside mine: one button that names them, behind which they are added, shown or hidden, coloured, ordered,
 * removed, and kept under a name.
 */
export const BesideMine = ({
  sets,
  layers,
  over,
  me,
  onOver,
}: {
  sets: ReturnType<typeof useLayerSets>
  layers: readonly KnownLayer[]
  /** Laid over mine, rather than a lane each. */
  over: boolean
  me: string
  onOver: (over: boolean) => void
}) => {
  const current: readonly Layer[] = sets.current?.layers ?? []
  const taken = new Set([me, ...current.map((layer) => layer.id)])
  const change = (id: string, part: Partial<Layer>) =>
    sets.put(current.map((layer) => (layer.id === id ? { ...layer, ...part } : layer)))
  const move = (id: string, by: 1 | -1) => {
    const at = current.findIndex((layer) => layer.id === id)
    const next = [...current]
    const [one] = next.splice(at, 1)
    if (one) next.splice(Math.max(0, at + by), 0, one)
    sets.put(next)
  }
  const add = (added: Pick<Layer, 'kind' | 'id'>[]) =>
    sets.put([
      ...current,
      ...added.map((one, i) => ({
        ...one,
        shown: true,
        open: false,
        tone: (current.length + i) % TONES_COUNT,
      })),
    ])
  const shown = layers.filter((layer) => layer.shown)
  const names = shown.map((layer) => layer.name.split(' ')[0]).join(', ')
  return (
    <Popping
      label="Somebody’s time beside mine"
      side="bottom"
      align="end"
      className="flex w-[400px] flex-col gap-2 p-3"
      trigger={
        <Button tone={shown.length ? 'plain' : 'quiet'} className="min-w-0">
          <Layers size={15} aria-hidden className="shrink-0" />
          <span className="truncate">
            <span className={shown.length ? 'sr-only' : '@max-5xl:sr-only'}>Somebody’s time beside mine</span>
            {names}
          </span>
        </Button>
      }
    >
      <AddLayer taken={taken} onAdd={add} />
      {layers.length > 0 && (
        <ul aria-label="Whose time stands beside mine" className="max-h-[40dvh] overflow-y-auto">
          {layers.map((layer) => (
            <Row
              key={layer.id}
              layer={layer}
              onChange={(part) => change(layer.id, part)}
              onMove={(by) => move(layer.id, by)}
              onRemove={() => sets.put(current.filter((each) => each.id !== layer.id))}
            />
          ))}
        </ul>
      )}
      {layers.length > 0 && (
        <fieldset aria-label="How they lie" className="flex text-sm">
          {[
            { value: false, words: 'a row each' },
            { value: true, words: 'over mine' },
          ].map((each) => (
            <button
              key={each.words}
              type="button"
              aria-pressed={over === each.value}
              onClick={() => onOver(each.value)}
              className="min-h-7 border border-soft/50 px-2 first:rounded-l-md last:rounded-r-md aria-pressed:bg-ink aria-pressed:text-ground max-md:min-h-thumb"
            >
              {each.words}
            </button>
          ))}
        </fieldset>
      )}
      <Sets sets={sets} some={layers.length > 0} />
    </Popping>
  )
}

/** A layer's name on a lane of its own. */
export const LayerLabel = ({ layer }: { layer: KnownLayer }) => (
  <div className="flex items-center gap-1.5 pl-3 text-[13px] md:justify-end text-soft leading-tight">
    <i className="size-2.5 shrink-0 rounded-full" style={{ background: flower(layer.tone) }} />
    <span className="min-w-0 truncate">{layer.name}</span>
    {layer.about !== 'everything' && <span className="shrink-0 text-xs">{layer.about}</span>}
  </div>
)
