import { describe, expect, it } from 'vitest'
import { databaseIsAway, databaseIsBusy } from './guard.ts'

const coded = (code: string) => Object.assign(new Error('not now'), { code })

it('what was given up since it took too long is not told as a mistake', () => {
  expect([coded('57014'), coded('55P03'), coded('40P01'), coded('57P01')].map(databaseIsBusy)).toEqual([
    true,
    true,
    false,
    false,
  ])
})

describe('a database that is away for the moment', () => {
  it.each([
    coded('57P01'),
    coded('57P03'),
    coded('08006'),
    coded('ECONNREFUSED'),
    new Error('Connection terminated unexpectedly'),
  ])('is told from a mistake: %s', (error) => expect(databaseIsAway(error)).toBe(true))

  it.each([
    coded('57014'),
    coded('23505'),
    new Error('cannot read properties of undefined'),
    'Connection terminated',
    null,
  ])('is not what went wrong otherwise: %s', (error) => expect(databaseIsAway(error)).toBe(false))
})
