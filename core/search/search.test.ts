import { describe, expect, it } from 'vitest'
import { bySoonest, plainWords, wordsIn } from './index.ts'

describe('words of a row', () => {
  it('are all of them, small and without accents', () => {
    expect(plainWords('Zdeňka HORÁKOVÁ, 12-mm drill')).toEqual(['zdenka', 'horakova', '12', 'mm', 'drill'])
    expect(plainWords(' ')).toEqual([])
  })
})

describe('the words of a search', () => {
  it.each([
    ['  Firn  core ', ['firn', 'core']],
    ['Névé, "hall"', ['névé', 'hall']],
    ['re: hand-over (2nd)', ['re', 'hand', 'over', '2nd']],
    ['firn Firn FIRN', ['firn']],
    ["' or 1=1; --", ['or', '1']],
    ['!&|:*<->', []],
    ['कोर 氷', ['कोर', '氷']],
    ['a b c d e f g h', ['a', 'b', 'c', 'd', 'e', 'f']],
  ])('of %j are %j', (text, words) => {
    expect(wordsIn(text)).toEqual(words)
  })

  it('are no longer than any word is', () => {
    expect(wordsIn('x'.repeat(1000))).toEqual(['x'.repeat(40)])
  })
})

it('what is to come stands before what was, and of either the nearest first', () => {
  const at = (start: number) => ({ start, end: start + 1 })
  expect([at(3), at(12), at(9), at(30), at(10)].sort(bySoonest(10)).map((one) => one.start)).toEqual([
    10, 12, 30, 9, 3,
  ])
})
