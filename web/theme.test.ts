import { readFileSync } from 'node:fs'
import { INKS } from '@marmot/core/lanes'
import { describe, expect, it } from 'vitest'

const css = readFileSync(new URL('./theme.css', import.meta.url), 'utf8')

type Theme = 'day' | 'dusk'

/** The value of a token of the theme, by day or at dusk. */
const token = (name: string, theme: Theme): string => {
  const found = new RegExp(`--${name}: light-dark\\((#[0-9a-f]{6}), (#[0-9a-f]{6})\\)`).exec(css)
  const value = found?.[theme === 'day' ? 1 : 2]
  if (!value) throw new Error(`the theme has no colour ${name}`)
  return value
}

const channels = (colour: string): number[] =>
  [1, 3, 5].map((i) => Number.parseInt(colour.slice(i, i + 2), 16) / 255)

/** Relative luminance, as WCAG 2.2 defines it. */
const luminance = (colour: readonly number[]): number => {
  const [r = 0, g = 0, b = 0] = colour.map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}

/** How a colour looks of which `share` lies over another. */
const over = (above: readonly number[], below: readonly number[], share: number): number[] =>
  above.map((c, i) => c * share + (below[i] ?? 0) * (1 - share))

const contrast = (a: readonly number[], b: readonly number[]): number => {
  const [dark = 0, bright = 0] = [luminance(a), luminance(b)].sort((x, y) => x - y)
  return (bright + 0.05) / (dark + 0.05)
}

describe.each(['day', 'dusk'] as const)('the colours by %s', (theme) => {
  const colour = (name: string) => channels(token(name, theme))
  /** An open lane where the light falls behind it. */
  const openInLight = over(colour('open'), colour('light'), 0.78)

  it.each([
    ['open-edge', 'ground'],
    ['open-edge', 'open'],
    ['open-edge', 'light'],
    ['busy', 'open'],
    ['busy-edge', 'ground'],
    ['busy-edge', 'open'],
    ['busy-edge', 'light'],
    ['gentian', 'ground'],
    ['gentian', 'open'],
    ['gentian', 'light'],
    ['gentian', 'paper'],
    ['coral', 'ground'],
    ['coral', 'open'],
    ['soft', 'shade'],
  ])('%s on %s is seen: 3 to 1 at least', (above, below) => {
    expect(contrast(colour(above), colour(below))).toBeGreaterThanOrEqual(3)
  })

  it('an edge is seen also where the light lies behind what is open', () => {
    expect(contrast(colour('open-edge'), openInLight)).toBeGreaterThanOrEqual(3)
    expect(contrast(colour('busy-edge'), openInLight)).toBeGreaterThanOrEqual(3)
  })

  it.each([
    ['ink', 'ground'],
    ['ink', 'open'],
    ['ink', 'paper'],
    ['soft', 'ground'],
    ['soft', 'paper'],
    ['busy-ink', 'busy'],
    ['coral', 'ground'],
    ['coral', 'paper'],
    ['gentian-ink', 'gentian'],
    ['sun-ink', 'light'],
    ['bar-ink', 'bar'],
  ])('%s on %s is read: 4.5 to 1 at least', (above, below) => {
    expect(contrast(colour(above), colour(below))).toBeGreaterThanOrEqual(4.5)
  })

  it('what is open is lighter than the ground and than what is busy', () => {
    expect(luminance(colour('open'))).toBeGreaterThan(luminance(colour('ground')))
    expect(luminance(colour('open'))).toBeGreaterThan(luminance(colour('busy')))
  })
})

describe('the picture in a letter', () => {
  const NAMES: Record<keyof typeof INKS, string> = {
    ground: 'ground',
    open: 'open',
    openEdge: 'open-edge',
    busy: 'busy',
    busyInk: 'busy-ink',
    ink: 'ink',
    soft: 'soft',
    line: 'line',
    chosen: 'gentian',
    chosenInk: 'gentian-ink',
  }

  it.each(Object.entries(NAMES))('has the %s of the screens by day', (ink, name) => {
    expect(INKS[ink as keyof typeof INKS]).toBe(token(name, 'day'))
  })
})
