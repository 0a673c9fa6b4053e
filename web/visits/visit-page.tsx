import { lengthInWords } from '@marmot/core/time'
import { askOutside, PAGE } from '../outside/routes.ts'
import { problemCode, problemWords } from '../platform/problem.ts'
import { useEvents, useFetched } from '../platform/use-fetched.ts'
import { Button, Loading, Trouble } from '../ui/parts.tsx'
import { Frame, NotOffered } from './frame.tsx'
import { PickTime } from './pick-time.tsx'
import { Proof } from './proof.tsx'

/** A page on which somebody from outside picks a time: its kinds of meeting, or one of them. */
export const VisitPage = ({ page, kind }: { page: string; kind: string }) => {
  const proof = new URLSearchParams(location.search).get('proof')
  if (proof) return <Proof token={proof} again={`/v/${page}/${kind}`} />
  return kind ? <PickTime page={page} kind={kind} /> : <Kinds page={page} />
}

/** What kinds of meeting there are; where there is one alone, it is shown at once. */
const Kinds = ({ page }: { page: string }) => {
  const fetched = useFetched(() => askOutside(PAGE, { params: { page } }))
  useEvents(`/api/v/${encodeURIComponent(page)}/events`, fetched.again)
  const { data, error } = fetched
  if (error && (!data || problemCode(error) === 'not-offered'))
    return problemCode(error) === 'offline' ? (
      <main className="mx-auto max-w-lg p-6">
        <Trouble action={<Button onClick={fetched.again}>Try again</Button>}>{problemWords(error)}</Trouble>
      </main>
    ) : (
      <NotOffered />
    )
  if (!data)
    return (
      <main className="p-6">
        <Loading what="the page" />
      </main>
    )
  const [only, ...others] = data.kinds
  if (only && others.length === 0) return <PickTime page={page} kind={only.slug} />
  return (
    <Frame head={data}>
      <h1 className="font-bold text-2xl">{data.name}</h1>
      {data.about && <p className="whitespace-pre-wrap text-soft">{data.about}</p>}
      {data.kinds.length === 0 ? (
        <p>Nothing is offered here just now. Write to whoever sent you here.</p>
      ) : (
        <ul aria-label="What you can meet for" className="flex flex-col gap-2">
          {data.kinds.map((kind) => (
            <li key={kind.slug}>
              <a
                href={`/v/${page}/${kind.slug}${location.search}`}
                className="flex flex-col gap-0.5 rounded-lg bg-paper px-4 py-3 hover:bg-shade"
              >
                <span className="flex items-baseline justify-between gap-3">
                  <b className="font-semibold text-lg">{kind.title}</b>
                  <span className="whitespace-nowrap text-soft">
                    {kind.lengths.map(lengthInWords).join(' or ')}
                    {kind.cost && `, ${kind.cost}`}
                  </span>
                </span>
                {kind.about && <span className="line-clamp-2 text-soft text-sm">{kind.about}</span>}
              </a>
            </li>
          ))}
        </ul>
      )}
    </Frame>
  )
}
