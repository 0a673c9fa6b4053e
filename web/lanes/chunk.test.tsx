// @vitest-environment happy-dom
import { act, cleanup, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Chunks, chunksOf } from './chunk.tsx'

/** Stands in for the browser's: says of what it watches whether it is near when the test says so. */
class Observer {
  static readonly all: Observer[] = []
  readonly watched = new Set<Element>()
  constructor(readonly tell: (seen: { target: Element; isIntersecting: boolean }[]) => void) {
    Observer.all.push(this)
  }
  observe(one: Element) {
    this.watched.add(one)
  }
  unobserve(one: Element) {
    this.watched.delete(one)
  }
  disconnect() {
    this.watched.clear()
  }
}

beforeEach(() => {
  Observer.all.length = 0
  vi.stubGlobal('IntersectionObserver', Observer)
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const names = (from: number, count: number) => Array.from({ length: count }, (_, i) => `P${from + i}`)
const drawn = vi.fn()
const draw = {
  current: (row: string) => {
    drawn(row)
    return <p key={row}>{row}</p>
  },
}
const board = (rows: readonly string[], onNear: (rows: readonly string[]) => void) => (
  <Chunks rows={rows} from={0} stamp="same" draw={draw} onNear={onNear} />
)
const near = (at: number, isIntersecting = true) =>
  act(() => {
    const [observer] = Observer.all
    const target = [...(observer?.watched ?? [])][at]
    if (target) observer?.tell([{ target, isIntersecting }])
  })

describe('very many lanes', () => {
  it('are drawn only near what is in sight, and are watched by one observer', () => {
    render(board(names(0, 60), vi.fn()))
    expect(screen.getByText('P0')).toBeTruthy()
    expect(screen.queryByText('P50')).toBeNull()
    expect([Observer.all.length, Observer.all[0]?.watched.size]).toEqual([1, 6])
    near(5)
    expect(screen.getByText('P50')).toBeTruthy()
    near(0, false)
    expect(screen.queryByText('P0')).toBeNull()
  })

  it('that are others in the same place are told of', () => {
    const onNear = vi.fn()
    const { rerender } = render(board(names(0, 30), onNear))
    expect(onNear).toHaveBeenCalledWith(names(0, 10))
    onNear.mockClear()
    rerender(board(names(100, 30), onNear))
    expect(onNear).toHaveBeenCalledWith(names(100, 10))
  })

  it('are drawn anew only where one of them is another', () => {
    const onNear = () => undefined
    const { rerender } = render(board(names(0, 20), onNear))
    drawn.mockClear()
    rerender(board([...names(0, 10), ...names(50, 10)], onNear))
    expect(drawn.mock.calls.flat()).toEqual(names(50, 10))
  })

  it('stand in pieces, in order', () => {
    expect(chunksOf([1, 2, 3, 4, 5], 2)).toEqual([[1, 2], [3, 4], [5]])
    expect(chunksOf([], 2)).toEqual([])
  })
})
