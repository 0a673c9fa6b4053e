import { undoChange } from '@marmot/contract/entries'
import {
  type cancelMeeting as CancelMeeting,
  type changeMeeting as ChangeMeeting,
  cancelMeeting,
  changeMeeting,
  type Meeting,
  nudgeMeeting,
} from '@marmot/contract/meetings'
import { useQueryClient } from '@tanstack/react-query'
import type { z } from 'zod'
import { call } from '../platform/api.ts'
import { useUndo } from '../platform/undo.tsx'
import { counted } from '../ui/parts.tsx'

export type WantedBody = z.input<(typeof ChangeMeeting)['body']>
type CancelBody = z.input<(typeof CancelMeeting)['body']>

const MINUTE_MS = 60_000

/** "10 seconds", "2 minutes": how long something still waits. */
export const waitInWords = (ms: number): string =>
  ms > 2 * MINUTE_MS
    ? counted(Math.ceil(ms / MINUTE_MS), 'minute', 'minutes')
    : counted(Math.ceil(ms / 1000), 'second', 'seconds')

/** "Nobody is told", "5 people are told in 10 seconds". */
const toldWords = (told: number, untoldMs: number): string => {
  if (told === 0) return 'Nobody has to be told.'
  const who = `${counted(told, 'person is', 'people are')} told`
  return untoldMs > 0 ? `${who} in ${waitInWords(untoldMs)}.` : `${who}.`
}

/** Changes and cancels meetings, each with a way back for as long as nobody was told, and after. */
export const useMeetingWrites = () => {
  const queries = useQueryClient()
  const say = useUndo()
  // Not waited for: what is shown is asked for anew, while the moment to take it back runs.
  const refresh = () => void queries.invalidateQueries()

  const takeBack = async (changeId: string): Promise<string> => {
    const { told } = await call(undoChange, { params: { changeId } })
    refresh()
    return told === 0
      ? 'Taken back. Nobody was told.'
      : `Taken back. ${counted(told, 'person is', 'people are')} told so.`
  }

  /**
   * Says what was done, with a button that takes it back; `after` is done once it was. `told` is null where it concerns nobody
   * else.
   */
  const done = (
    words: string,
    { changeId, told, untoldMs }: { changeId: string; told: number | null; untoldMs: number },
    after: () => void = () => undefined,
  ) =>
    say({
      words: told === null ? `${words}.` : `${words}. ${toldWords(told, untoldMs)}`,
      label: 'Take back',
      ...(untoldMs > 0 ? { stays: untoldMs } : {}),
      undo: async () => {
        const said = await takeBack(changeId)
        after()
        return said
      },
    })

  /** `alone` where it concerns nobody else. */
  const change = async (entryId: string, body: WantedBody, key: string, words: string, alone = false) => {
    const changed = await call(changeMeeting, { params: { entryId }, body, key })
    done(words, alone && changed.told === 0 ? { ...changed, told: null } : changed)
    refresh()
    return changed
  }

  const cancel = async (entryId: string, body: CancelBody, words: string, alone = false) => {
    const { changeId, ...cancelled } = await call(cancelMeeting, { params: { entryId }, body })
    if (changeId) done(words, { ...cancelled, changeId, ...(alone ? { told: null } : {}) })
    refresh()
  }

  /** Asks those who have not answered once more, or one of them, by their id as a participant. */
  const nudge = async (meeting: Meeting, participant?: string): Promise<string> => {
    const { nudged, lately } = await call(nudgeMeeting, {
      params: { entryId: meeting.entryId },
      body: {
        ...(meeting.recurrence ? { recurrence: meeting.recurrence } : {}),
        ...(participant ? { participant } : {}),
      },
    })
    refresh()
    const parts = [
      nudged.length ? `Reminded ${nudged.join(', ')}.` : 'Nobody was reminded.',
      lately.length ? `${lately.join(', ')} had a reminder within a day, and gets none now.` : '',
    ]
    return parts.filter(Boolean).join(' ')
  }

  return { change, cancel, takeBack, done, nudge }
}
