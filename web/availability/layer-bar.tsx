import type { Layer } from '@marmot/contract/layers'
import { ChevronDown, ChevronLeft, ChevronRight, ChevronUp, Eye, EyeOff, Layers, X } from 'lucide-react'
import { useRef, useState } from 'react'
import { useFeeds } from '../feeds/feeds.ts'
import { PeopleSearch } from '../people/people-search.tsx'
import { useResources } from '../resources/resources.ts'
import { Button, flower, TONES_COUNT } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import type { KnownLayer, useLayerSets } from './layers.ts'

/** A field that was just asked for is where one types next. */
const focusOnSight = (field: HTMLInputElement | null): void => field?.focus()

const SMALL = 'grid size-[25px] place-items-center rounded hover:bg-shade'

/** One layer: whose it is, its colour, whether it is shown, and at which level one looks at it. */
const Chip = ({
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
  <li
    className={`flex items-center gap-0 rounded-md border px-1 text-sm ${layer.shown ? 'border-line bg-paper' : 'border-soft border-dashed'}`}
  >
    <button
      type="button"
      title="Another colour"
      aria-label={`Another colour for ${layer.name}`}
      onClick={() => onChange({ tone: (layer.tone + 1) % TONES_COUNT })}
      className="grid size-[25px] place-items-center"
    >
      <i className="size-3.5 rounded-full" style={{ background: layer.colour }} />
    </button>
    <span className="whitespace-nowrap">
      {layer.name} <span className="text-soft">{layer.about}</span>
    </span>
    <button
      type="button"
      aria-label={layer.shown ? `Hide ${layer.name}` : `Show ${layer.name}`}
      aria-pressed={layer.shown}
      className={SMALL}
      onClick={() => onChange({ shown: !layer.shown })}
    >
      {layer.shown ? <Eye size={14} aria-hidden /> : <EyeOff size={14} aria-hidden />}
    </button>
    <span className="flex items-center text-soft">
      <button type="button" aria-label={`${layer.name} earlier`} className={SMALL} onClick={() => onMove(-1)}>
        <ChevronLeft size={14} aria-hidden />
      </button>
      <button type="button" aria-label={`${layer.name} later`} className={SMALL} onClick={() => onMove(1)}>
        <ChevronRight size={14} aria-hidden />
      </button>
    </span>
    <button type="button" aria-label={`Remove ${layer.name}`} className={SMALL} onClick={onRemove}>
      <X size={14} aria-hidden />
    </button>
  </li>
)

/** Adds somebody, a team, a place or a feed as a layer. */
const AddLayer = ({
  taken,
  onAdd,
}: {
  taken: ReadonlySet<string>
  onAdd: (layers: Pick<Layer, 'kind' | 'id'>[]) => void
}) => {
  const input = useRef<HTMLInputElement>(null)
  const [open, setOpen] = useState(false)
  const places = useResources(open).data?.resources ?? []
  const feeds = useFeeds()
  const select = (label: string, kind: Layer['kind'], choices: readonly { id: string; name: string }[]) =>
    choices.length > 0 && (
      <select
        aria-label={label}
        value=""
        onChange={(event) => {
          onAdd([{ kind, id: event.target.value }])
          setOpen(false)
        }}
        className="rounded-md border border-soft/50 bg-paper px-2 py-1 text-sm"
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
    <Popping
      label="Somebody’s time beside mine"
      side="bottom"
      className="flex w-80 flex-col gap-2 p-3"
      open={open}
      onOpenChange={setOpen}
      onOpenAutoFocus={(event) => {
        event.preventDefault()
        input.current?.focus()
      }}
      trigger={
        <Button tone="quiet">
          <Layers size={15} aria-hidden /> Somebody’s time beside mine
        </Button>
      }
    >
      <PeopleSearch
        inputRef={input}
        taken={taken}
        onPeople={(people) => {
          onAdd(people.filter((one) => !taken.has(one.id)).map((one) => ({ kind: 'person', id: one.id })))
          setOpen(false)
        }}
      />
      {select(
        'Add a place',
        'place',
        [...places].sort((a, b) => a.name.localeCompare(b.name)),
      )}
      {select('Add a feed', 'feed', feeds.data?.read ?? [])}
    </Popping>
  )
}

/** The layers in use: add, show or hide, colour, order, remove; kept as a set, of which one can have several. */
export const LayerBar = ({
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
  const [naming, setNaming] = useState<string | null>(null)
  /** On a phone the layers are a line of their own each, so they stand there only when they are asked for. */
  const [unfolded, setUnfolded] = useState(false)
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
      ...added.map((one, i) => ({ ...one, shown: true, tone: (current.length + i) % TONES_COUNT })),
    ])
  return (
    <div className="flex flex-wrap items-center gap-x-1.5 gap-y-1 px-4.5 pb-1 max-md:px-2.5">
      <AddLayer taken={taken} onAdd={add} />
      {layers.length > 0 && (
        <button
          type="button"
          aria-expanded={unfolded}
          onClick={() => setUnfolded(!unfolded)}
          className="flex min-h-[25px] items-center gap-1 rounded px-1 text-sm underline underline-offset-2 md:hidden"
        >
          {layers.length === 1 ? '1 layer' : `${layers.length} layers`}
          {unfolded ? <ChevronUp size={15} aria-hidden /> : <ChevronDown size={15} aria-hidden />}
        </button>
      )}
      <div className={`contents ${unfolded || layers.length === 0 ? '' : 'max-md:hidden'}`}>
        <ul className="contents" aria-label="Layers">
          {layers.map((layer) => (
            <Chip
              key={layer.id}
              layer={layer}
              onChange={(part) => change(layer.id, part)}
              onMove={(by) => move(layer.id, by)}
              onRemove={() => sets.put(current.filter((each) => each.id !== layer.id))}
            />
          ))}
        </ul>
        {layers.length > 0 && (
          <>
            <fieldset aria-label="How layers lie" className="flex text-sm">
              {[
                { value: false, words: 'a lane each' },
                { value: true, words: 'over mine' },
              ].map((each) => (
                <button
                  key={each.words}
                  type="button"
                  aria-pressed={over === each.value}
                  onClick={() => onOver(each.value)}
                  className="border border-line px-2 py-0.5 first:rounded-l-md last:rounded-r-md aria-pressed:bg-ink aria-pressed:text-ground"
                >
                  {each.words}
                </button>
              ))}
            </fieldset>
            {naming === null ? (
              <button
                type="button"
                className="text-sm underline"
                onClick={() => setNaming(sets.current?.name ?? '')}
              >
                {sets.current?.name ? `Set: ${sets.current.name}` : 'Name this set'}
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
                  aria-label="Name of this set"
                  value={naming}
                  maxLength={60}
                  onChange={(event) => setNaming(event.target.value)}
                  onBlur={() => setNaming(null)}
                  className="w-36 rounded border border-line bg-paper px-1.5 text-sm"
                />
              </form>
            )}
          </>
        )}
        {(sets.sets.length > 1 || (sets.current?.name && layers.length > 0)) && (
          <select
            aria-label="Another set of layers"
            value=""
            onChange={(event) => {
              if (event.target.value === 'new') {
                sets.keep({ id: crypto.randomUUID(), name: '', layers: [] })
                return
              }
              const set = sets.sets.find((each) => each.id === event.target.value)
              if (set) sets.keep(set)
            }}
            className="rounded-md border border-line bg-paper px-1.5 text-sm"
          >
            <option value="">other sets…</option>
            {sets.sets.slice(1).map((set) => (
              <option key={set.id} value={set.id}>
                {set.name || `${set.layers.length} layers, unnamed`}
              </option>
            ))}
            <option value="new">a new set</option>
          </select>
        )}
      </div>
    </div>
  )
}

/** A layer's name on a lane of its own. */
export const LayerLabel = ({ layer }: { layer: KnownLayer }) => (
  <div className="flex items-center gap-1.5 pl-3 text-[13px] text-soft leading-tight">
    <i className="size-2.5 shrink-0 rounded-full" style={{ background: flower(layer.tone) }} />
    <span className="truncate">{layer.name}</span>
  </div>
)
