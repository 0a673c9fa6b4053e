import {
  agreeToHost,
  deleteVisitKind,
  deleteVisitPage,
  type KeptVisitKind,
  type KeptVisitPage,
  makeOnceLink,
  putVisitKind,
  putVisitPage,
} from '@marmot/contract/visit-pages'
import { lengthInWords } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { Copy, ExternalLink } from 'lucide-react'
import { Suspense, useState } from 'react'
import { call } from '../platform/api.ts'
import { part } from '../platform/part.tsx'
import { problemWords } from '../platform/problem.ts'
import { newSecret } from '../platform/secret.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useUndo } from '../platform/undo.tsx'
import { useAttempt } from '../platform/use-attempt.ts'
import { Button, Empty, Field, flower, Loading, TONES_COUNT, Trouble } from '../ui/parts.tsx'
import { KindSheet } from './kind-sheet.tsx'
import { useVisitPages } from './pages.ts'
import { slugOf } from './slugs.ts'

const VisitsTable = part(() => import('./visits-table.tsx').then((m) => m.VisitsTable))

const copyAddress = (path: string) =>
  navigator.clipboard.writeText(`${location.origin}${path}`).then(
    () => toast.success('The address is copied.'),
    () => toast.error('The browser does not allow copying here.'),
  )

/** A kind of meeting in a line: what it is, its address, whether it is on. */
const KindLine = ({
  page,
  kind,
  onOpen,
}: {
  page: KeptVisitPage
  kind: KeptVisitKind
  onOpen: () => void
}) => {
  const path = `/v/${page.slug}/${kind.slug}`
  const waiting = kind.hosts.filter((host) => !host.agreed)
  const once = async () => {
    const secret = newSecret()
    try {
      const params = { pageId: page.id, kindId: kind.id }
      await call(makeOnceLink, { params, body: { secret }, key: secret })
      await copyAddress(`${path}?once=${secret}`)
    } catch (error) {
      toast.error(problemWords(error))
    }
  }
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 border-line border-t py-1.5">
      <button
        type="button"
        onClick={onOpen}
        className="min-w-40 flex-1 rounded text-left hover:underline max-md:min-h-thumb max-md:basis-full"
      >
        <b className="font-semibold">{kind.title}</b>{' '}
        <span className="text-soft">{kind.lengths.map(lengthInWords).join(' or ')}</span>
        {!kind.on && <span className="ml-2 text-soft">off</span>}
        {waiting.length > 0 && (
          <span className="block text-[12.5px] text-soft">
            waits for {waiting.map((host) => host.name).join(', ')} to agree
          </span>
        )}
      </button>
      {kind.byLinkOnly ? (
        <Button onClick={once} className="max-md:min-h-thumb">
          <Copy size={14} aria-hidden /> A link for one visit
        </Button>
      ) : (
        <>
          <Button onClick={() => copyAddress(path)} className="max-md:min-h-thumb">
            <Copy size={14} aria-hidden /> Copy its address
          </Button>
          <a
            className="grid size-8 place-items-center rounded hover:bg-shade max-md:size-thumb"
            href={path}
            target="_blank"
            rel="noreferrer"
            aria-label={`See ${kind.title} as a visitor does`}
            title="See it as a visitor does"
          >
            <ExternalLink size={15} aria-hidden />
          </a>
        </>
      )}
    </li>
  )
}

/** Puts a kind of meeting back as it was; those who had agreed are asked again where it is not for me to say. */
const putBack = (pageId: string, { id: kindId, hosts, ...terms }: KeptVisitKind) =>
  call(putVisitKind, {
    params: { pageId, kindId },
    body: { ...terms, hosts: hosts.map((host) => host.personId) },
  })

/** A page with its kinds; its name, address and look are changed where they stand. */
const PageCard = ({
  page,
  onKind,
}: {
  page: KeptVisitPage
  onKind: (kind: KeptVisitKind | null) => void
}) => {
  const queries = useQueryClient()
  const [editing, setEditing] = useState(false)
  const [words, setWords] = useState(page)
  const { busy, trouble, attempt } = useAttempt()
  const refresh = () => queries.invalidateQueries({ queryKey: ['visits'] })
  const params = { pageId: page.id }
  const save = async (next: KeptVisitPage) => {
    const { slug, name, about, accent, on } = next
    const done = await attempt(() => call(putVisitPage, { params, body: { slug, name, about, accent, on } }))
    await refresh()
    if (done) setEditing(false)
  }
  const say = useUndo()
  const remove = async () => {
    if (!(await attempt(() => call(deleteVisitPage, { params })))) return
    await refresh()
    say({
      words: `${page.name} is taken away. What was taken on it stands.`,
      undo: async () => {
        const { slug, name, about, accent, on } = page
        await call(putVisitPage, { params, body: { slug, name, about, accent, on } })
        for (const kind of page.kinds) await putBack(page.id, kind)
        await refresh()
        return `${page.name} is there again.`
      },
    })
  }
  return (
    <section
      aria-label={page.name}
      className="flex flex-col gap-1 rounded-lg border-l-4 bg-paper px-4 py-3"
      style={{ borderColor: flower(page.accent) }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="min-w-0 flex-1 truncate font-semibold text-[17px] max-md:basis-full">{page.name}</h2>
        {!page.on && <span className="text-soft">off: nobody reaches it</span>}
        <Button
          onClick={() => save({ ...page, on: !page.on })}
          disabled={busy}
          className="max-md:min-h-thumb"
        >
          {page.on ? 'Turn off' : 'Turn on'}
        </Button>
        <Button onClick={() => setEditing(!editing)} className="max-md:min-h-thumb">
          {editing ? 'Back' : 'Name and address…'}
        </Button>
      </div>
      <p className="text-soft text-sm">
        {location.origin}/v/{page.slug}
      </p>
      {editing && (
        <div className="flex flex-col gap-2 border-line border-t pt-2">
          <Field label="Its name">
            {(props) => (
              <input
                {...props}
                maxLength={120}
                value={words.name}
                onChange={(event) => setWords({ ...words, name: event.target.value })}
              />
            )}
          </Field>
          <Field label="Its address, after /v/">
            {(props) => (
              <input
                {...props}
                maxLength={60}
                value={words.slug}
                onChange={(event) => setWords({ ...words, slug: event.target.value.toLowerCase() })}
              />
            )}
          </Field>
          <Field label="What visitors read first (optional)">
            {(props) => (
              <textarea
                {...props}
                rows={2}
                maxLength={2000}
                value={words.about}
                onChange={(event) => setWords({ ...words, about: event.target.value })}
              />
            )}
          </Field>
          <fieldset className="flex flex-wrap gap-1.5">
            <legend className="text-soft text-sm">Its colour</legend>
            {Array.from({ length: TONES_COUNT }, (_, tone) => (
              <button
                key={flower(tone)}
                type="button"
                aria-pressed={words.accent === tone}
                aria-label={`Colour ${tone + 1}`}
                onClick={() => setWords({ ...words, accent: tone })}
                className={`size-8 rounded-full border-2 max-md:size-thumb ${words.accent === tone ? 'border-ink' : 'border-transparent'}`}
                style={{ background: flower(tone) }}
              />
            ))}
          </fieldset>
          <div className="flex items-center gap-2">
            <button
              type="button"
              className="mr-auto rounded px-1 text-coral max-md:min-h-thumb"
              onClick={remove}
            >
              Take the page away
            </button>
            <Button tone="primary" disabled={busy} onClick={() => save(words)} className="max-md:min-h-thumb">
              {busy ? 'Keeping…' : 'Keep it'}
            </Button>
          </div>
        </div>
      )}
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
      <ul>
        {page.kinds.map((kind) => (
          <KindLine key={kind.id} page={page} kind={kind} onOpen={() => onKind(kind)} />
        ))}
      </ul>
      <Button className="self-start max-md:min-h-thumb" onClick={() => onKind(null)}>
        A new kind of meeting…
      </Button>
    </section>
  )
}

/** Where others would offer my time: never without my word. */
const AskedToHost = ({
  asked,
}: {
  asked: readonly { kindId: string; title: string; page: string; by: string; agreed: boolean }[]
}) => {
  const queries = useQueryClient()
  const { busy, trouble, attempt } = useAttempt()
  const answer = (kindId: string, agree: boolean) =>
    attempt(async () => {
      await call(agreeToHost, { params: { kindId }, body: { agree } })
      await queries.invalidateQueries({ queryKey: ['visits'] })
    })
  if (asked.length === 0) return null
  return (
    <section aria-label="Pages of others" className="rounded-lg bg-paper px-4 py-3">
      <h2 className="font-semibold text-[17px]">Pages of others that offer your time</h2>
      <ul>
        {asked.map((one) => (
          <li
            key={one.kindId}
            className="flex flex-wrap items-center gap-2 border-line border-t py-1.5 first:border-t-0"
          >
            <span className="min-w-0 flex-1">
              <b className="font-semibold">{one.title}</b>, {one.page}{' '}
              <span className="text-soft">by {one.by}</span>
            </span>
            {one.agreed ? (
              <Button disabled={busy} onClick={() => answer(one.kindId, false)}>
                Do not offer mine any more
              </Button>
            ) : (
              <Button tone="primary" disabled={busy} onClick={() => answer(one.kindId, true)}>
                Offer my time there
              </Button>
            )}
          </li>
        ))}
      </ul>
      {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
    </section>
  )
}

/** Pages on which people from outside pick a time of mine, and what became of their visits. */
export const VisitorsPart = () => {
  const { person } = useMe()
  const queries = useQueryClient()
  const visits = useVisitPages()
  const say = useUndo()
  const [open, setOpen] = useState<{ pageId: string; kind: KeptVisitKind | null } | null>(null)
  const { busy, trouble, attempt } = useAttempt()
  if (visits.isPending) return <Loading what="your pages" />
  if (visits.isError)
    return (
      <Trouble action={<Button onClick={() => visits.refetch()}>Try again</Button>}>
        {problemWords(visits.error)}
      </Trouble>
    )
  const { pages, asked } = visits.data
  const begin = () =>
    attempt(async () => {
      const pageId = crypto.randomUUID()
      const [first = ''] = person.name.split(' ')
      const name = pages.length ? `${person.name} ${pages.length + 1}` : person.name
      const body = (slug: string) => ({ slug, name })
      const slug = slugOf(pages.length ? name : first)
      // Somebody else may have that first name: then the whole one.
      await call(putVisitPage, { params: { pageId }, body: body(slug) }).catch(() =>
        call(putVisitPage, { params: { pageId }, body: body(slugOf(`${person.name} ${pages.length + 1}`)) }),
      )
      await queries.invalidateQueries({ queryKey: ['visits'] })
      setOpen({ pageId, kind: null })
    })
  const page = pages.find((one) => one.id === open?.pageId)
  return (
    <div className="grid items-start gap-5 pb-6 lg:grid-cols-[minmax(0,1fr)_minmax(0,420px)]">
      <div className="flex min-w-0 flex-col gap-4">
        {pages.length === 0 && (
          <div className="flex flex-col items-start gap-2">
            <Empty>
              People from outside cannot see your calendar. On a page of yours they pick a time that is free:
              you say for what, how long, and when.
            </Empty>
          </div>
        )}
        {pages.map((one) => (
          <PageCard
            key={`${one.id} ${one.slug} ${one.accent}`}
            page={one}
            onKind={(kind) => setOpen({ pageId: one.id, kind })}
          />
        ))}
        <Button
          tone={pages.length ? 'plain' : 'primary'}
          className="self-start max-md:min-h-thumb"
          disabled={busy}
          onClick={begin}
        >
          {pages.length ? 'Another page' : 'Make a page'}
        </Button>
        {trouble !== null && <Trouble>{problemWords(trouble)}</Trouble>}
        <AskedToHost asked={asked} />
        <Suspense fallback={<Loading what="the visits" />}>
          <VisitsTable />
        </Suspense>
      </div>
      {page && open && (
        <KindSheet
          key={open.kind?.id ?? 'new'}
          page={page}
          kind={open.kind}
          onClose={() => setOpen(null)}
          onRemove={async (kindId) => {
            const { kind } = open
            await call(deleteVisitKind, { params: { pageId: page.id, kindId } })
            await queries.invalidateQueries({ queryKey: ['visits'] })
            setOpen(null)
            if (kind)
              say({
                words: `${kind.title} is not offered any more. What was taken of it stands.`,
                undo: async () => {
                  await putBack(page.id, kind)
                  await queries.invalidateQueries({ queryKey: ['visits'] })
                  return `${kind.title} is offered again.`
                },
              })
          }}
        />
      )}
    </div>
  )
}
