import { problemWords } from '../platform/problem.ts'
import { Button, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { FoundRow } from './found-row.tsx'
import { useOpenFound, useSearch } from './search.ts'

const MOST = 200

/** All that was found by some words, past and to come. */
export const FoundList = ({ text }: { text: string }) => {
  const found = useSearch(text, MOST)
  const open = useOpenFound()
  if (text.trim().length < 2) return <Empty>Type two letters or more.</Empty>
  if (found.isPending) return <Loading what="what has these words" />
  if (found.isError)
    return (
      <Trouble action={<Button onClick={() => found.refetch()}>Try again</Button>}>
        {problemWords(found.error)}
      </Trouble>
    )
  const { entries, alike, partly } = found.data
  if (entries.length === 0)
    return (
      <Empty>
        Nothing has these words in its title, its text, its place or among its people. Fewer letters find
        more.
      </Empty>
    )
  return (
    <>
      <p className="pb-1 text-soft text-sm" role="status">
        {alike
          ? 'Nothing has these words. This looks like them:'
          : `${entries.length === MOST ? 'The first ' : ''}${entries.length} found`}
      </p>
      {partly && (
        <p className="pb-1 text-soft text-sm">
          Only your own time was looked through: more letters find what others have, too.
        </p>
      )}
      <ul className="max-w-3xl">
        {entries.map((one) => (
          <li key={`${one.entryId}${one.laneOf}`} className="border-line/60 border-b">
            <button
              type="button"
              onClick={() => open(one)}
              className="w-full px-1 py-1.5 text-left hover:bg-shade/60"
            >
              <FoundRow found={one} />
            </button>
          </li>
        ))}
      </ul>
    </>
  )
}
