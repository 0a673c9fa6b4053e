import { listTrained, putTrained, removeTrained } from '@marmot/contract/place-list'
import { placesEvent } from '@marmot/contract/resources'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useRef } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { call } from '../platform/api.ts'
import { heed } from '../platform/live.ts'
import { problemWords } from '../platform/problem.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt } from '../platform/use-attempt.ts'
import { Empty, Loading, Trouble } from '../ui/parts.tsx'

/** Who was trained to use a place, each until a day or for good; added by name, taken out with a way back. */
export const TrainedPeople = ({ placeId }: { placeId: string }) => {
  const queries = useQueryClient()
  const say = useUndo()
  const search = useRef<HTMLInputElement>(null)
  const { trouble, attempt } = useAttempt()
  const list = useQuery({
    queryKey: ['places', 'trained', placeId],
    queryFn: () => call(listTrained, { params: { resourceId: placeId } }),
    meta: { heeds: [heed(placesEvent, (event) => event.resources.includes(placeId))] },
  })
  const act = async (work: () => Promise<unknown>) => {
    await attempt(work)
    void queries.invalidateQueries({ queryKey: ['places', 'trained', placeId] })
  }
  const put = (personId: string, until: string | null) =>
    call(putTrained, { params: { resourceId: placeId, personId }, body: { until } })
  const people = list.data?.trained ?? []
  return (
    <section aria-label="Trained people" className="flex flex-col gap-1.5">
      <h3 className="font-semibold">Trained people</h3>
      <p className="text-soft text-sm">They count where the rules are for trained people only.</p>
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      {list.isError && <Trouble>{problemWords(list.error)}</Trouble>}
      {list.isPending && <Loading what="who was trained" />}
      {list.data && people.length === 0 && <Empty>Nobody yet.</Empty>}
      <ul>
        {people.map(({ personId, name, until, over }) => (
          <li key={personId} className="flex items-center gap-2 border-line border-t py-1">
            <span className="min-w-0 flex-1 truncate">
              {name}
              {over && <span className="text-coral text-sm"> ⚠ ended</span>}
            </span>
            <label className="flex items-center gap-1 text-soft text-sm">
              until
              <input
                type="date"
                aria-label={`${name}, trained until`}
                value={until ?? ''}
                onChange={(event) => act(() => put(personId, event.target.value || null))}
                className="rounded border border-soft/50 bg-paper px-1 py-0.5 text-ink"
              />
            </label>
            <button
              type="button"
              aria-label={`${name} is not trained`}
              className="grid size-7 place-items-center rounded hover:bg-shade max-md:size-thumb"
              onClick={() =>
                act(async () => {
                  await call(removeTrained, { params: { resourceId: placeId, personId } })
                  say({ words: `${name} is taken out.`, undo: () => act(() => put(personId, until)) })
                })
              }
            >
              <X size={15} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <PeopleSearch
        inputRef={search}
        taken={new Set(people.map((one) => one.personId))}
        words="Add somebody, or a team"
        onPeople={(chosen) =>
          act(async () => {
            for (const one of chosen) await put(one.id, null)
          })
        }
      />
    </section>
  )
}
