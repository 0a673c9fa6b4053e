import { describe, expect, it } from 'vitest'
import { keepRunning } from './rounds.ts'

/** Rounds that note what happens to them. Like a real one, each says that it is lost when it is stopped, too. */
const madeUp = ({ failing = 0, breaking = 0 } = {}) => {
  const running = new Set<number>()
  const lose: (() => void)[] = []
  let [most, fails] = [0, 0]
  return {
    running,
    lose,
    most: () => most,
    start: async (onLost: () => void) => {
      if (lose.length > 0 && fails < failing) {
        fails++
        throw new Error('the database is away')
      }
      const index = lose.push(onLost) - 1
      running.add(index)
      most = Math.max(most, running.size)
      // Some are lost before they have so much as begun.
      if (index > 0 && index <= breaking) onLost()
      await Promise.resolve()
      return {
        stop: async () => {
          onLost()
          await Promise.resolve()
          onLost()
          running.delete(index)
        },
      }
    },
  }
}

const WAITS = { soon: 1, late: 4 }
const quiet = () => undefined
/** Until all that can happen by itself has happened. */
const rest = async () => {
  for (let i = 0; i < 20; i++) await new Promise((resolve) => setTimeout(resolve, WAITS.late))
}
/** Until there are so many rounds. */
const rounds = async (lose: readonly unknown[], many: number) => {
  while (lose.length < many) await new Promise((resolve) => setTimeout(resolve, 1))
}

describe('what is kept running', () => {
  it('is started once anew when it is lost, however often it says so', async () => {
    const made = madeUp()
    const kept = await keepRunning(made.start, WAITS, quiet)
    for (let i = 0; i < 5; i++) made.lose[0]?.()
    await rounds(made.lose, 2)
    await rest()
    expect(made.lose).toHaveLength(2)
    expect([...made.running]).toEqual([1])
    await kept.stop()
  })

  it('stays after breaks in quick succession: what was stopped does not end what follows', async () => {
    const made = madeUp({ breaking: 3 })
    const kept = await keepRunning(made.start, WAITS, quiet)
    made.lose[0]?.()
    await rounds(made.lose, 5)
    for (const late of made.lose.slice(0, 4)) late()
    await rest()
    expect(made.lose).toHaveLength(5)
    expect([...made.running]).toEqual([4])
    expect(made.most()).toBe(1)
    await kept.stop()
  })

  it('is tried again for as long as it cannot be started, and each time says why', async () => {
    const made = madeUp({ failing: 3 })
    const said: string[] = []
    const kept = await keepRunning(made.start, WAITS, (words, error) =>
      said.push(error instanceof Error ? error.message : words),
    )
    made.lose[0]?.()
    await rounds(made.lose, 2)
    expect(said).toEqual(['it is started anew', ...Array(3).fill('the database is away')])
    await kept.stop()
  })

  it('leaves nothing when it is stopped: running, lost or being started', async () => {
    for (const before of [0, 1, 2]) {
      const made = madeUp()
      const kept = await keepRunning(made.start, WAITS, quiet)
      if (before > 0) made.lose[0]?.()
      if (before > 1) await rounds(made.lose, 2)
      await kept.stop()
      const many = made.lose.length
      await rest()
      expect(made.running.size).toBe(0)
      expect(made.lose).toHaveLength(many)
    }
  })

  it('is refused when it cannot be started at first', async () => {
    const away = async () => Promise.reject(new Error('the database is away'))
    await expect(keepRunning(away, WAITS, quiet)).rejects.toThrow('the database is away')
  })
})
