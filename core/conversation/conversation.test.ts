import * as fc from 'fast-check'
import { expect, it } from 'vitest'
import { beingMeant, meantIn, namesMeant } from './index.ts'

const NAMES = ['Ann', 'Ann Lee', 'Tashi Lhendup', 'Øyvind']

it.each([
  ['@Ann, come', ['Ann']],
  ['@Ann Lee, come', ['Ann Lee']],
  ['@Ann Leeward', ['Ann']],
  ['@Anna', []],
  ['write to x@Ann', []],
  ['(@øyvind) and @TASHI LHENDUP.', ['Tashi Lhendup', 'Øyvind']],
  ['@Tashi', []],
  ['@@Ann', ['Ann']],
  ['nobody', []],
])('in “%s” are meant %j', (text, meant) => {
  expect(namesMeant(text, NAMES)).toEqual(meant)
})

it('cuts what was said without losing anything of it', () => {
  const words = fc.array(fc.constantFrom('@', ' ', 'Ann', 'Lee', 'Øyvind', 'x', '\n', ','), { maxLength: 12 })
  fc.assert(
    fc.property(words, (parts) => {
      const text = parts.join('')
      const said = meantIn(text, NAMES)
      expect(said.map((one) => one.words).join('')).toBe(text)
      for (const one of said) expect(text.slice(one.at, one.at + one.words.length)).toBe(one.words)
    }),
  )
})

it('knows which name is being typed', () => {
  expect(beingMeant('Hello @Ta', 9)).toEqual({ from: 6, typed: 'Ta' })
  expect(beingMeant('@', 1)).toEqual({ from: 0, typed: '' })
  expect(beingMeant('@Tashi Lh and', 9)).toEqual({ from: 0, typed: 'Tashi Lh' })
  expect(beingMeant('x@y', 3)).toBeNull()
  expect(beingMeant('no', 2)).toBeNull()
})
