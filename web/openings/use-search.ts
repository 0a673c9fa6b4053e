import type { Brief } from '@marmot/contract/briefs'
import { findOpenings, searchLine } from '@marmot/contract/openings'
import type { Answer, SearchBrief } from '@marmot/core/openings'
import type { Instant } from '@marmot/core/time'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { laneNumbers } from './lane-numbers.ts'
import type { Question, Told } from './search.worker.ts'

/** Larger meetings are searched on the server: sending it so many lanes would cost more than the search. */
const MOST_IN_PAGE = 40

export interface Searching {
  readonly answer: Answer | null
  /** How much is done, 0 to 1; 1 when nothing is being searched. */
  readonly share: number
  readonly refused: string | null
  readonly stopped: boolean
  readonly stop: () => void
  /** Asks the same once more, after it was stopped. */
  readonly again: () => void
}

interface State extends Omit<Searching, 'stop' | 'again'> {}

const IDLE: State = { answer: null, share: 1, refused: null, stopped: false }
let questions = 0

/** Reads the server's lines as they come. */
const searchOnServer = async (brief: Brief, signal: AbortSignal, tell: (state: Partial<State>) => void) => {
  const trouble = () => tell({ share: 1, refused: 'The search could not be made just now. Try again.' })
  const response = await fetch(findOpenings.path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ brief }),
    signal,
  })
  const reader = response.ok ? response.body?.pipeThrough(new TextDecoderStream()).getReader() : undefined
  if (!reader) return trouble()
  let rest = ''
  let whole = false
  for (;;) {
    const part = await reader.read()
    const lines = `${rest}${part.value ?? ''}`.split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) {
      const read = searchLine.safeParse(JSON.parse(line))
      if (!read.success) return trouble()
      if ('refused' in read.data) tell({ share: 1, answer: null, refused: read.data.refused.detail })
      else tell({ share: read.data.share, answer: read.data.answer, refused: null })
      whole = 'refused' in read.data || read.data.share === 1
    }
    // An answer that breaks off is no whole answer, whatever of it was shown.
    if (part.done) return whole ? undefined : trouble()
  }
}

/**
 * Searches a brief beside the page: in a worker with what is loaded already, or on the server where many people are asked.
 * The answer before stays until the next one comes. Null searches nothing.
 */
export const useSearch = (
  search: {
    readonly brief: SearchBrief
    readonly wire: Brief
    readonly organizerId: string
    readonly knownTo: Instant
  } | null,
): Searching => {
  const [state, setState] = useState(IDLE)
  const worker = useRef<{ port: Worker; number: ReturnType<typeof laneNumbers> } | null>(null)
  const abort = useRef<AbortController | null>(null)
  const asked = useRef(0)
  const [times, setTimes] = useState(0)
  const again = useCallback(() => setTimes((before) => before + 1), [])

  useEffect(() => {
    const made = new Worker(new URL('./search.worker.ts', import.meta.url), { type: 'module' })
    made.onmessage = ({ data }: MessageEvent<Told>) => {
      if (data.id !== asked.current) return
      if ('refused' in data) setState({ ...IDLE, refused: data.refused.detail })
      else setState({ ...IDLE, share: data.share, answer: data.answer })
    }
    worker.current = { port: made, number: laneNumbers() }
    return () => made.terminate()
  }, [])

  const stop = useCallback(() => {
    asked.current = 0
    abort.current?.abort()
    worker.current?.port.postMessage({ stop: true })
    setState((before) => ({ ...before, share: 1, stopped: true }))
  }, [])

  // Asked once more it is another question, though the brief is the same.
  const question = useMemo(() => search && { ...search, times }, [search, times])
  useEffect(() => {
    abort.current?.abort()
    if (!question) {
      asked.current = 0
      setState(IDLE)
      return
    }
    const id = ++questions
    asked.current = id
    setState((before) => ({ ...before, share: 0, refused: null, stopped: false }))
    if (question.wire.people.length <= MOST_IN_PAGE) {
      const { organizerId, knownTo } = question
      const { port, number } = worker.current ?? {}
      if (port && number)
        port.postMessage({ id, ...number(question.brief), organizerId, knownTo } satisfies Question)
      return
    }
    const controller = new AbortController()
    abort.current = controller
    searchOnServer(question.wire, controller.signal, (next) => {
      if (asked.current === id) setState((before) => ({ ...before, ...next }))
    }).catch(() => {
      if (!controller.signal.aborted)
        setState({ ...IDLE, refused: 'The search could not be made just now. Try again.' })
    })
    return () => controller.abort()
  }, [question])

  return { ...state, stop, again }
}
