import { setTimeout as wait } from 'node:timers/promises'

/** Something that runs until it is stopped. */
export interface Round {
  readonly stop: () => Promise<void>
}

/**
 * Starts one round. It says that it is lost when it cannot go on, however often, and also while it is started or
 * stopped: a connection that is closed looks like one that broke.
 */
export type StartRound = (onLost: () => void) => Promise<Round>

/** How long to wait before a new round: at first soon, then, as long as none can be started, ever later. In ms. */
export interface Waits {
  readonly soon: number
  readonly late: number
}

/**
 * Keeps one round running until it is stopped: when one is lost, what is left of it is stopped, and then the next is
 * started. There is never more than one, and only the one that runs can be lost: if stopping one counted as losing it,
 * each would end the next, for ever.
 *
 * @throws what the first start throws; later ones are tried again, and said to `onTrouble`.
 */
export const keepRunning = async (
  start: StartRound,
  { soon, late }: Waits,
  onTrouble: (words: string, error?: unknown) => void,
): Promise<Round> => {
  const stopped = new AbortController()
  const over = new Promise<void>((resolve) => stopped.signal.addEventListener('abort', () => resolve()))

  const begin = async () => {
    let onLost = (): void => undefined
    const lost = new Promise<void>((resolve) => {
      onLost = resolve
    })
    return { round: await start(onLost), lost }
  }

  const beginAgain = async () => {
    for (let ms = soon; !stopped.signal.aborted; ms = Math.min(late, ms * 2)) {
      await wait(ms, undefined, { signal: stopped.signal }).catch(() => undefined)
      if (stopped.signal.aborted) break
      try {
        return await begin()
      } catch (error) {
        onTrouble('it waits for the database', error)
      }
    }
    return null
  }

  const keep = async (first: Awaited<ReturnType<typeof begin>>): Promise<void> => {
    for (let now: typeof first | null = first; now; now = await beginAgain()) {
      await Promise.race([now.lost, over])
      if (!stopped.signal.aborted) onTrouble('it is started anew')
      await now.round.stop()
    }
  }

  const keeping = keep(await begin())
  return {
    stop: async () => {
      stopped.abort()
      await keeping
    },
  }
}
