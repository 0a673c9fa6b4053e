import { lookAtChange, type Meeting, type Telling } from '@marmot/contract/meetings'
import type { Scope } from '@marmot/core/entries'
import { dayOf, type Instant, minutesBetween, spanInWords, toWall } from '@marmot/core/time'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useNotePictures } from '../entries/note-pictures.ts'
import { call } from '../platform/api.ts'
import { problemCode } from '../platform/problem.ts'
import { useRested } from '../platform/rested.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useAlive } from '../platform/use-alive.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import type { Pictures } from '../ui/pictures.ts'
import { asMembers, endFor, type Fields, fieldsOf, type Member, readTime, wantedOf } from './wanted.ts'
import { useMeetingWrites } from './writes.ts'

/** What is wanted of a meeting before it is here. */
export interface Wanted extends Partial<Omit<Fields, 'members'>> {
  readonly members?: readonly Omit<Member, 'here' | 'everyDate'>[]
  /** Which dates of a series it is for at first. */
  readonly scope?: Scope
}

/** A change of a meeting while it is made up: what stands in the fields, and what it would do. */
export interface ChangeInHand {
  /** The meeting as the fields are compared with it. */
  readonly base: Meeting
  readonly fields: Fields
  /** The pictures of its description. */
  readonly pictures: Pictures
  readonly set: (part: Partial<Fields>) => void
  /** Begins at another clock; the length stays. */
  readonly setFrom: (from: string) => void
  readonly scope: Scope
  readonly setScope: (scope: Scope) => void
  readonly time: { readonly start: Instant; readonly end: Instant }
  readonly errors: ReturnType<typeof readTime>['errors']
  /** True where something differs from what is there. */
  readonly differs: boolean
  /** Who would be told what; null until that is known. */
  readonly tellings: readonly Telling[] | null
  /** True while what is shown is not yet of what stands in the fields. */
  readonly looking: boolean
  readonly trouble: unknown
  /** What somebody else has made of it meanwhile; the fields can be put upon that. */
  readonly newest: Meeting | null
  readonly rebase: () => void
  readonly busy: boolean
  readonly submit: () => Promise<void>
}

/**
 * A change of a meeting, begun with what is wanted already. What is not touched follows the meeting; `newest` is the meeting
 * as the server has it now.
 */
export const useChange = (
  newest: Meeting,
  wanted: Wanted,
  { onChanged, onStale }: { onChanged: (entryId: string) => void; onStale: () => void },
): ChangeInHand => {
  const { zone } = useMe()
  const now = useNow()
  const writes = useMeetingWrites()
  const [base, setBase] = useState(newest)
  const [mine, setMine] = useState<Partial<Fields>>(() => {
    const { members, scope: _, ...rest } = wanted
    return members ? { ...rest, members: asMembers(members, newest) } : rest
  })
  const [scope, setScope] = useState<Scope>(wanted.scope ?? 'this')
  const [busy, setBusy] = useState(false)
  const [failed, setFailed] = useState<{ readonly of: string; readonly error: unknown } | null>(null)
  const keyOf = useKeyOf()
  const alive = useAlive()
  const { pictures, attachTo } = useNotePictures()
  const fields = { ...fieldsOf(base, zone), ...mine }
  const today = dayOf(toWall(zone, now))
  const { errors, ...time } = readTime(fields, zone, today)
  const readable = Object.keys(errors).length === 0
  // A start that is being typed is none for a moment; the length is what it was before.
  const length = useRef(0)
  if (readable) length.current = minutesBetween(time.start, time.end)
  const valid = readable && fields.title.trim() !== ''
  const body = valid ? wantedOf(base, fields, scope, zone, today) : null
  const text = JSON.stringify(body)
  const rested = useRested(text)
  const { entryId } = base
  const look = useQuery({
    queryKey: ['look', entryId, rested],
    queryFn: () => call(lookAtChange, { params: { entryId }, body: JSON.parse(rested) }),
    enabled: rested !== 'null' && !busy,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
  })
  const moved = time.start !== Date.parse(base.start) || time.end !== Date.parse(base.end)

  const submit = async () => {
    if (!body) return
    setBusy(true)
    try {
      const where = moved ? ` to ${spanInWords(time.start, time.end, zone, now)}` : ''
      const changed = await writes.change(
        entryId,
        body,
        keyOf(text),
        `${moved ? 'Moved' : 'Changed'} ${fields.title.trim()}${where}`,
        base.alone,
      )
      const troubles = await attachTo(changed.entryId, fields.note)
      if (troubles.length) toast.error(`It is changed. ${troubles.join(' ')}`, { duration: 12_000 })
      if (alive.current) onChanged(changed.entryId)
    } catch (error) {
      setFailed({ of: text, error })
      setBusy(false)
    }
  }
  const trouble = failed?.of === text ? failed.error : rested === 'null' ? null : look.error
  const stale = problemCode(trouble) === 'stale'
  const staleNow = useRef(onStale)
  staleNow.current = onStale
  useEffect(() => {
    if (stale) staleNow.current()
  }, [stale])
  return {
    base,
    fields,
    pictures,
    set: (part) => setMine((before) => ({ ...before, ...part })),
    setFrom: (from) =>
      setMine((before) => ({ ...before, from, until: endFor(fields, from, length.current) })),
    scope,
    setScope,
    time,
    errors,
    differs: body !== null,
    tellings: body && look.data ? look.data.tellings : null,
    looking: text !== rested || look.isPlaceholderData || look.isPending,
    trouble: stale ? null : trouble,
    newest: newest.version !== base.version && !busy ? newest : null,
    rebase: () => {
      setFailed(null)
      setBase(newest)
    },
    busy,
    submit,
  }
}
