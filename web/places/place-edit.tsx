import {
  addPlace,
  changePlace,
  type KeptPlace,
  MOST_PICTURE_BYTES,
  type PlaceBody,
  putPicture,
  removePicture,
  retirePlace,
} from '@marmot/contract/place-list'
import { featuresText, MOST_SEATS, PLACE_KINDS, readFeatures } from '@marmot/core/reservations'
import { useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useRef, useState } from 'react'
import { PeopleSearch } from '../people/people-search.tsx'
import { call, upload } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt, useKeyOf } from '../platform/use-attempt.ts'
import { Beside } from '../ui/beside.tsx'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { pictureOf } from './place-state.ts'
import { TrainedPeople } from './trained-people.tsx'

/** The picture of a place: set, exchanged, taken away. */
const Picture = ({ place }: { place: KeptPlace }) => {
  const queries = useQueryClient()
  const input = useRef<HTMLInputElement>(null)
  const { busy, trouble, attempt } = useAttempt()
  const act = async (work: () => Promise<unknown>) => {
    await attempt(work)
    void queries.invalidateQueries()
  }
  const path = putPicture.path.replace(':resourceId', place.id)
  return (
    <section aria-label="Picture" className="flex flex-col gap-2">
      {place.picture && (
        <img
          src={pictureOf(place.id, place.picture)}
          alt={place.name}
          className="max-h-48 w-full rounded-md object-cover"
        />
      )}
      {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
      <div className="flex gap-2">
        <Button disabled={busy} onClick={() => input.current?.click()}>
          {busy ? 'Sending…' : place.picture ? 'Another picture' : 'Add a picture'}
        </Button>
        {place.picture && (
          <Button
            disabled={busy}
            onClick={() => act(() => call(removePicture, { params: { resourceId: place.id } }))}
          >
            Without picture
          </Button>
        )}
        <input
          ref={input}
          type="file"
          hidden
          accept="image/png,image/jpeg,image/webp"
          aria-label="Picture of the place"
          onChange={(event) => {
            const [file] = event.target.files ?? []
            event.target.value = ''
            if (!file) return
            act(async () => {
              if (file.size <= MOST_PICTURE_BYTES) await upload(path, file)
              else toast.error('A picture has 8 MB at most. Make it smaller, and try again.')
            })
          }}
        />
      </div>
    </section>
  )
}

/** What a place is, typed; `features` as one line. */
const typedOf = (place: KeptPlace | null, siteId: string) => ({
  name: place?.name ?? '',
  kind: place?.kind ?? ('room' as const),
  siteId: place?.siteId ?? siteId,
  floor: place?.floor ?? '',
  seats: place?.seats ? String(place.seats) : '',
  features: featuresText(place?.features ?? {}),
  about: place?.about ?? '',
  stewardId: place?.stewardId,
  steward: place?.steward ?? '',
})

/** Adds a place, or changes what one is; with its picture and who was trained. */
export const PlaceEdit = ({ place, onClose }: { place: KeptPlace | null; onClose: () => void }) => {
  const { session, person } = useMe()
  const queries = useQueryClient()
  const say = useUndo()
  const [typed, setTyped] = useState(() => typedOf(place, person.siteId))
  const [handing, setHanding] = useState(false)
  const { busy, trouble, attempt } = useAttempt()
  const keyOf = useKeyOf()
  const search = useRef<HTMLInputElement>(null)
  const put = (part: Partial<typeof typed>) => setTyped((before) => ({ ...before, ...part }))
  const features = readFeatures(typed.features)
  const seats = typed.seats.trim() === '' ? 0 : Number(typed.seats)
  const seatsWrong = !Number.isInteger(seats) || seats < 0 || seats > MOST_SEATS
  const fine = typed.name.trim() !== '' && features !== null && !seatsWrong
  const save = async (event: FormEvent) => {
    event.preventDefault()
    if (!fine || !features) return
    const { name, kind, siteId, floor, about, stewardId } = typed
    const body: PlaceBody = {
      name,
      kind,
      siteId,
      floor,
      about,
      seats,
      features,
      ...(stewardId ? { stewardId } : {}),
    }
    await attempt(async () => {
      if (place) {
        await call(changePlace, {
          params: { resourceId: place.id },
          body: { ...body, version: place.version },
        })
        toast(
          stewardId === person.id
            ? `${name} is changed.`
            : `${name} is looked after by ${typed.steward} now.`,
        )
      } else {
        await call(addPlace, { body, key: keyOf(body) })
        toast(`${name} is added, open at all hours: its rules are set on its lane.`)
      }
      onClose()
    })
    void queries.invalidateQueries()
  }
  const retire = (retired: boolean) => {
    if (!place) return
    const set = (to: boolean) =>
      call(retirePlace, { params: { resourceId: place.id }, body: { retired: to } }).finally(() =>
        queries.invalidateQueries(),
      )
    void attempt(async () => {
      await set(retired)
      say({
        words: `${place.name} is ${retired ? 'not in use any more' : 'in use again'}.`,
        undo: () => set(!retired),
      })
      onClose()
    })
  }
  return (
    <Beside
      title={place ? place.name : 'A new place'}
      onClose={onClose}
      foot={
        <div className="flex items-center gap-2">
          {place && (
            <Button tone={place.retired ? 'plain' : 'trouble'} onClick={() => retire(!place.retired)}>
              {place.retired ? 'Use it again' : 'Take it out of use'}
            </Button>
          )}
          <span className="flex-1" />
          <Button tone="primary" disabled={!fine || busy} onClick={save}>
            {busy ? 'Keeping…' : place ? 'Keep the changes' : `Add ${typed.name.trim() || 'it'}`}
          </Button>
        </div>
      }
    >
      <form className="flex flex-col gap-3" onSubmit={save}>
        {trouble ? <Trouble>{problemWords(trouble)}</Trouble> : null}
        <Field label="Name">
          {(props) => (
            <input
              {...props}
              data-first
              value={typed.name}
              maxLength={200}
              onChange={(event) => put({ name: event.target.value })}
            />
          )}
        </Field>
        <div className="grid grid-cols-2 gap-2">
          <Field label="Kind">
            {(props) => (
              <select
                {...props}
                value={typed.kind}
                onChange={(event) =>
                  put({ kind: PLACE_KINDS.find((one) => one === event.target.value) ?? 'room' })
                }
              >
                {PLACE_KINDS.map((kind) => (
                  <option key={kind}>{kind}</option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Site">
            {(props) => (
              <select
                {...props}
                value={typed.siteId}
                onChange={(event) => put({ siteId: event.target.value })}
              >
                {session.sites.map((site) => (
                  <option key={site.id} value={site.id}>
                    {site.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Floor">
            {(props) => (
              <input
                {...props}
                value={typed.floor}
                maxLength={60}
                onChange={(event) => put({ floor: event.target.value })}
              />
            )}
          </Field>
          <Field label="Seats" error={seatsWrong ? `a number up to ${MOST_SEATS}` : undefined}>
            {(props) => (
              <input
                {...props}
                inputMode="numeric"
                value={typed.seats}
                maxLength={6}
                onChange={(event) => put({ seats: event.target.value })}
              />
            )}
          </Field>
        </div>
        <Field
          label="Features, with how many"
          error={features === null ? 'like “2 screens; camera; step-free”' : undefined}
        >
          {(props) => (
            <input
              {...props}
              value={typed.features}
              placeholder="2 screens; step-free; out of doors"
              maxLength={600}
              onChange={(event) => put({ features: event.target.value })}
            />
          )}
        </Field>
        <Field label="What one should know of it">
          {(props) => (
            <textarea
              {...props}
              rows={3}
              value={typed.about}
              maxLength={2000}
              onChange={(event) => put({ about: event.target.value })}
            />
          )}
        </Field>
        {place && (
          <p className="text-sm">
            Looked after by <b className="font-semibold">{typed.steward}</b>{' '}
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => setHanding(!handing)}
            >
              {handing ? 'not now' : 'hand it to somebody else'}
            </button>
          </p>
        )}
        {handing && (
          <PeopleSearch
            inputRef={search}
            taken={new Set(typed.stewardId ? [typed.stewardId] : [])}
            words="Who looks after it from now on"
            onPeople={([chosen]) => {
              if (chosen) put({ stewardId: chosen.id, steward: chosen.name })
              setHanding(false)
            }}
          />
        )}
      </form>
      {place && (
        <div className="flex flex-col gap-3 pt-3">
          <Picture place={place} />
          <TrainedPeople placeId={place.id} />
        </div>
      )}
    </Beside>
  )
}
