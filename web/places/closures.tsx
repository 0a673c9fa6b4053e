import { openPlace } from '@marmot/contract/closures'
import type { Resource } from '@marmot/contract/resources'
import { spanInWords } from '@marmot/core/time'
import { useQueryClient } from '@tanstack/react-query'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button } from '../ui/parts.tsx'

/** When it is closed, still or to come; opened again by whoever looks after it. */
export const Closures = ({ resource }: { resource: Resource }) => {
  const { zone } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const coming = resource.closed.filter((one) => Date.parse(one.end) > now)
  const shown = coming.slice(0, MOST_CLOSURES)
  const open = async (closureId: string | null) => {
    if (closureId === null) return
    try {
      await call(openPlace, { params: { resourceId: resource.id, closureId } })
      toast(`${resource.name} is open again.`)
    } catch (error) {
      toast.error(problemWords(error))
    }
    void queries.invalidateQueries()
  }
  return (
    <ul>
      {shown.map((one) => (
        <li key={one.start} className="flex items-center gap-2 border-line border-t py-1.5 text-sm">
          <span className="flex-1">
            Closed {spanInWords(Date.parse(one.start), Date.parse(one.end), zone, now)}: {one.reason}
          </span>
          {resource.looksAfter && one.closureId !== null && (
            <Button onClick={() => open(one.closureId)}>Open again</Button>
          )}
        </li>
      ))}
      {coming.length > shown.length && (
        <li className="text-soft text-sm">and {coming.length - shown.length} more times</li>
      )}
    </ul>
  )
}
const MOST_CLOSURES = 4
