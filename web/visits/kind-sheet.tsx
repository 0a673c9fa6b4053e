import type { VisitKind } from '@marmot/contract/visit-pages'
import { type KeptVisitKind, type KeptVisitPage, putVisitKind, visitKind } from '@marmot/contract/visit-pages'
import { lengthInWords, parseLength } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'
import { call } from '../platform/api.ts'
import { ApiProblem, problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Field, Trouble } from '../ui/parts.tsx'
import { type Hosting, KindAsks, KindLetters, KindTimes, KindWho } from './kind-parts.tsx'
import { slugOf } from './slugs.ts'

const WHERE_WORDS = {
  mine: 'with me, at a place that I say',
  theirs: 'where the visitor says',
  room: 'in a room that is found for it',
  conference: 'by video or telephone',
  asked: 'at one of several places, as they choose',
} as const

/** Lengths as they are typed: "30m, 1h". */
const readLengths = (text: string): number[] | null => {
  const lengths = text.split(/[,;]/).map((part) => parseLength(part.trim()))
  return lengths.length > 0 && lengths.every((one) => one !== null)
    ? lengths.flatMap((one) => one ?? [])
    : null
}

const lengthsText = (lengths: readonly number[]): string => lengths.map(lengthInWords).join(', ')

const Folded = ({ title, children }: { title: string; children: ReactNode }) => (
  <details className="border-line border-t pt-1">
    <summary className="min-h-9 cursor-pointer py-1.5 font-semibold max-md:min-h-thumb">{title}</summary>
    <div className="flex flex-col gap-2.5 pb-2">{children}</div>
  </details>
)

/** A kind of meeting: what it is called and how long are enough; everything else has a sensible default and is folded. */
export const KindSheet = ({
  page,
  kind,
  onClose,
  onRemove,
}: {
  page: KeptVisitPage
  /** Null for a new one. */
  kind: KeptVisitKind | null
  onClose: () => void
  onRemove: (kindId: string) => Promise<void>
}) => {
  const { person } = useMe()
  const queries = useQueryClient()
  const [id] = useState(() => kind?.id ?? crypto.randomUUID())
  const [terms, setTerms] = useState<VisitKind>(
    () => kind ?? visitKind.parse({ slug: 'new', title: 'new', lengths: [30] }),
  )
  const [title, setTitle] = useState(kind?.title ?? '')
  const [slug, setSlug] = useState(kind?.slug ?? '')
  const [lengths, setLengths] = useState(lengthsText(kind?.lengths ?? [30]))
  const [hosts, setHosts] = useState<readonly Hosting[]>(
    () =>
      kind?.hosts.map(({ personId, name, agreed }) => ({ id: personId, name, agreed })) ?? [
        { id: person.id, name: person.name, agreed: true },
      ],
  )
  const { busy, trouble, attempt } = useAttempt()
  const set = (part: Partial<VisitKind>) => setTerms((before) => ({ ...before, ...part }))
  const read = readLengths(lengths)
  const fields = trouble instanceof ApiProblem ? (trouble.problem.fields ?? []) : []
  const errorAt = (path: string) => fields.find((field) => field.path === path)?.message
  const address = slug || slugOf(title)
  const keep = async () => {
    if (!read) return
    const { on, ...rest } = terms
    const body = {
      ...rest,
      on,
      title: title.trim(),
      slug: address,
      lengths: read,
      hosts: hosts.map((host) => host.id),
    }
    const done = await attempt(() => call(putVisitKind, { params: { pageId: page.id, kindId: id }, body }))
    await queries.invalidateQueries({ queryKey: ['visits'] })
    if (!done) return
    toast(
      kind
        ? `${body.title} is as you said from now on.`
        : `${body.title} is offered at ${location.host}/v/${page.slug}/${address}`,
    )
    onClose()
  }
  return (
    <section
      aria-label={kind ? kind.title : 'A new kind of meeting'}
      className="flex flex-col gap-3 rounded-lg bg-paper px-4 py-3 lg:sticky lg:top-0"
    >
      <h2 className="font-semibold text-[20px]">{kind ? kind.title : 'A new kind of meeting'}</h2>
      <Field label="What is it for?" error={errorAt('title')}>
        {(props) => (
          <input
            {...props}
            // biome-ignore lint/a11y/noAutofocus: it was opened by the press before
            autoFocus
            placeholder="Lab visit"
            maxLength={120}
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        )}
      </Field>
      <Field
        label="How long? Several to choose from with commas"
        error={read ? errorAt('lengths') : 'is no length: try “30m” or “30m, 1h”'}
      >
        {(props) => <input {...props} value={lengths} onChange={(event) => setLengths(event.target.value)} />}
      </Field>
      <Field label="Where?">
        {(props) => (
          <select
            {...props}
            value={terms.where}
            onChange={({ target: { value } }) => {
              const where = (Object.keys(WHERE_WORDS) as VisitKind['where'][]).find((one) => one === value)
              if (where)
                set({
                  where,
                  ...(where === 'room'
                    ? {
                        need:
                          terms.need ??
                          ({
                            kind: 'room',
                            siteId: person.siteId,
                            least: 1,
                            count: 1,
                            seats: 4,
                            features: {},
                          } as const),
                      }
                    : {}),
                })
            }}
          >
            {Object.entries(WHERE_WORDS).map(([where, words]) => (
              <option key={where} value={where}>
                {words}
              </option>
            ))}
          </select>
        )}
      </Field>
      {(terms.where === 'mine' || terms.where === 'asked') && (
        <Field label={terms.where === 'mine' ? 'At which place? (optional)' : 'The places, a line each'}>
          {(props) =>
            terms.where === 'mine' ? (
              <input
                {...props}
                maxLength={1000}
                value={terms.place}
                onChange={(event) => set({ place: event.target.value })}
              />
            ) : (
              <textarea
                {...props}
                rows={3}
                maxLength={1000}
                value={terms.place}
                onChange={(event) => set({ place: event.target.value })}
              />
            )
          }
        </Field>
      )}
      {terms.where === 'room' && terms.need && (
        <Field label="How many seats?">
          {(props) => (
            <input
              {...props}
              type="number"
              min={1}
              max={2000}
              value={terms.need?.seats ?? ''}
              onChange={(event) =>
                terms.need &&
                set({ need: { ...terms.need, seats: Math.max(1, event.target.valueAsNumber || 1) } })
              }
            />
          )}
        </Field>
      )}
      <Folded title="When it can be had">
        <KindTimes terms={terms} set={set} />
      </Folded>
      <Folded title="With whom">
        <KindWho terms={terms} set={set} hosts={hosts} onHosts={setHosts} />
      </Folded>
      <Folded title="What visitors read and are asked">
        <KindAsks terms={terms} set={set} />
      </Folded>
      <Folded title="Moving, cancelling, letters">
        <KindLetters terms={terms} set={set} />
        <Field
          label="Its address"
          error={errorAt('slug')}
          hint={`${location.host}/v/${page.slug}/${address}`}
        >
          {(props) => (
            <input
              {...props}
              maxLength={60}
              placeholder={slugOf(title)}
              value={slug}
              onChange={(event) => setSlug(event.target.value.toLowerCase())}
            />
          )}
        </Field>
      </Folded>
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <div className="flex items-center gap-2 border-line border-t pt-2">
        {kind && (
          <>
            <button
              type="button"
              className="rounded px-1 text-coral max-md:min-h-thumb"
              onClick={() => attempt(() => onRemove(kind.id))}
            >
              Take it away
            </button>
            <Button onClick={() => set({ on: !terms.on })} className="max-md:min-h-thumb">
              {terms.on ? 'Turn off' : 'Turn on'}
            </Button>
          </>
        )}
        <Button className="ml-auto max-md:min-h-thumb" onClick={onClose}>
          Back
        </Button>
        <Button
          tone="primary"
          className="max-md:min-h-thumb"
          disabled={busy || !title.trim() || !read}
          onClick={keep}
        >
          {busy ? 'Keeping…' : kind ? (terms.on ? 'Keep it' : 'Keep it, off') : 'Offer it'}
        </Button>
      </div>
    </section>
  )
}
