import { readFileSync } from 'node:fs'
import { PAGES } from '@marmot/contract/pages'
import { expect, it } from 'vitest'

const firstParts = (file: string): string[] =>
  [...readFileSync(new URL(file, import.meta.url), 'utf8').matchAll(/path="\/([a-z]+)/g)].map(
    ([, part = '']) => part,
  )

it('every address that the application shows is one that the server knows, so that it can be opened anew', () => {
  const shown = new Set(firstParts('./app.tsx'))
  expect(shown.size).toBeGreaterThan(5)
  expect([...shown].sort()).toEqual([...PAGES].sort())
})
