import type { SearchBrief, SeriesRule, SeriesSlot } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { SeriesQuestion, SeriesTold } from './series.worker.ts'

export interface SeriesSearch {
  readonly slots: readonly SeriesSlot[]
  readonly refused: string | null
  /** True until the answer to what is asked now is here; there are no slots then. */
  readonly searching: boolean
}

const NOTHING: SeriesSearch = { slots: [], refused: null, searching: false }
const SEARCHING: SeriesSearch = { slots: [], refused: null, searching: true }
let questions = 0

/**
 * Searches the dates of a series beside the page, in a worker: a year and a half of many people takes longer than a frame.
 * Null searches nothing; a newer question makes the answer to an older one void.
 */
export const useSeries = (
  brief: SearchBrief | null,
  rule: SeriesRule,
  start: Instant | null,
): SeriesSearch => {
  const [told, setTold] = useState<SeriesTold | null>(null)
  const worker = useRef<Worker | null>(null)
  useEffect(() => {
    const made = new Worker(new URL('./series.worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<SeriesTold>) => setTold(data)
    worker.current = made
    return () => made.terminate()
  }, [])
  const { every, unit, count } = rule
  const question = useMemo(
    (): SeriesQuestion | null => brief && { id: ++questions, brief, rule: { every, unit, count }, start },
    [brief, every, unit, count, start],
  )
  useEffect(() => {
    if (question) worker.current?.postMessage(question)
  }, [question])
  if (!question) return NOTHING
  return told?.id === question.id ? { slots: told.slots, refused: told.refused, searching: false } : SEARCHING
}
