import type { Repetition } from '@marmot/contract/entries'
import { sendMeeting } from '@marmot/contract/meetings'
import { type Contact, readContact } from '@marmot/contract/people'
import type { SeenDate } from '@marmot/contract/reservations'
import type { Span } from '@marmot/core/availability'
import { spanInWords } from '@marmot/core/time'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useNotePictures } from '../entries/note-pictures.ts'
import { useMeetingWrites } from '../meetings/writes.ts'
import { call } from '../platform/api.ts'
import { useMe, useNow } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { useKeyOf } from '../platform/use-attempt.ts'
import { namesInWords } from '../ui/names.ts'
import { NO_WORDS, type Repairs, runOf, type Words } from './reserving.ts'
import { useLook } from './use-look.ts'
import { useTypedSpan } from './use-typed-span.ts'

/** What one came with: a time, and the places at it. */
export interface Reserved {
  readonly span: Span
  readonly placeIds: readonly string[]
}

interface Given {
  /** The time and the places, which may be moved and added outside, too. */
  readonly reserved: Reserved
  readonly onReserved: (reserved: Reserved) => void
  readonly nameOf: (placeId: string) => string
  readonly onDone: () => void
}

/** A reservation while it is made up: its time both drawn and typed, its dates, what is in the way, and taking it. */
export const useReserving = ({ reserved, onReserved, nameOf, onDone }: Given) => {
  const { zone: home, person } = useMe()
  const now = useNow()
  const queries = useQueryClient()
  const writes = useMeetingWrites()
  const { span, placeIds } = reserved
  const when = useTypedSpan(span, (next) => onReserved({ placeIds, span: next }))
  const { fine, over, starts } = when
  const [words, setWords] = useState<Words>(NO_WORDS)
  const [contact, setContact] = useState<Contact | null>(null)
  const [repetition, setRepetition] = useState<Repetition | null>(null)
  const [repairs, setRepairs] = useState<Repairs>({})
  const [busy, setBusy] = useState(false)
  const [failed, setFailed] = useState<{ readonly of: string; readonly error: unknown } | null>(null)
  const keyOf = useKeyOf()
  const { pictures, attachTo } = useNotePictures()

  // Dates go by the wall time of the first; when that moves, repairs of before mean nothing any more.
  const setTime = useRef(starts)
  useEffect(() => {
    if (setTime.current === starts) return
    setTime.current = starts
    setRepairs({})
  }, [starts])

  const time = { starts, minutes: when.minutes, zone: when.zone, allDay: when.allDay }
  const run = fine && !over && placeIds.length > 0 ? runOf(time, placeIds, repetition, repairs) : null
  const of = words.of && words.of !== person.id ? { of: words.of } : {}
  const look = useLook(run && { ...run, headCount: words.headCount, ...of })
  const dates = look.dates ?? []
  const clashing = dates.filter((date) => date.clashes.length > 0)
  const usual = useQuery({
    queryKey: ['contact'],
    queryFn: () => call(readContact),
    staleTime: Number.POSITIVE_INFINITY,
  })
  const asked = contact ?? usual.data ?? null

  const repair = (date: SeenDate, chosen: SeenDate['repairs'][number]) => {
    if (repetition)
      setRepairs((before) => ({
        ...before,
        [date.recurrence]: { starts: chosen.starts, places: chosen.places },
      }))
    else
      onReserved({
        placeIds: chosen.places,
        span: { start: Date.parse(chosen.start), end: Date.parse(chosen.start) + (span.end - span.start) },
      })
  }
  const leaveOut = ({ recurrence }: SeenDate) => {
    setRepairs(({ [recurrence]: _, ...others }) => others)
    if (repetition)
      setRepetition({ ...repetition, excepted: [...new Set([...repetition.excepted, recurrence])].sort() })
  }
  const asItWas = (recurrence: string) => setRepairs(({ [recurrence]: _, ...others }) => others)

  const places = namesInWords(placeIds.map(nameOf))
  const whenInWords = fine ? spanInWords(fine.start, fine.end, home, now) : ''
  const many =
    dates.length > 1 ? `, and ${dates.length - 1} more ${dates.length === 2 ? 'date' : 'dates'}` : ''
  const body = run && {
    ...run,
    title: words.title.trim() || places,
    people: [],
    guests: [],
    note: words.note,
    purpose: words.purpose,
    headCount: words.headCount,
    contact: asked && (asked.name || asked.address || asked.telephone) ? asked : null,
    categoryId: words.categoryId,
    private: words.private,
    shows: words.takesTime ? ('busy' as const) : ('listed' as const),
    ...of,
  }
  const text = JSON.stringify(body)
  const take = async () => {
    if (!body) return
    setBusy(true)
    try {
      const made = await call(sendMeeting, { body, key: keyOf(text) })
      const troubles = await attachTo(made.entryId, body.note)
      if (troubles.length) toast.error(`It is reserved. ${troubles.join(' ')}`, { duration: 12_000 })
      writes.done(`${places} reserved: ${whenInWords}${many}`, { ...made, told: null })
      void queries.invalidateQueries()
      onDone()
    } catch (error) {
      setFailed({ of: text, error })
      void queries.invalidateQueries()
    }
    setBusy(false)
  }
  return {
    typedTime: when,
    words,
    pictures,
    say: (part: Partial<Words>) => setWords((before) => ({ ...before, ...part })),
    contact: asked,
    setContact,
    repetition,
    setRepetition: (next: Repetition | null) => {
      setRepetition(next)
      setRepairs({})
    },
    repairs,
    dates,
    clashing,
    looking: look.looking,
    trouble: failed?.of === text ? failed.error : look.trouble,
    repair,
    leaveOut,
    asItWas,
    places,
    when: whenInWords,
    many,
    busy,
    /** What is sent, as soon as it says enough. */
    body,
    ready: body !== null && !busy && !look.looking && clashing.length === 0 && !look.trouble,
    take,
  }
}

export type InHand = ReturnType<typeof useReserving>
