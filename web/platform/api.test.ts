import { createEntry, deleteEntry, listEntries } from '@marmot/contract/entries'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { call, upload } from './api.ts'
import { ApiProblem, problemCode, problemMore, problemWords } from './problem.ts'

afterEach(() => vi.unstubAllGlobals())

/** Answers the next requests with these, and keeps what was asked. */
const answering = (...answers: (Response | Error)[]) => {
  const asked: { address: string; init: RequestInit }[] = []
  vi.stubGlobal('fetch', async (address: string, init: RequestInit) => {
    asked.push({ address, init })
    const next = answers.shift()
    if (!next || next instanceof Error) throw next ?? new Error('nothing left to answer')
    return next
  })
  return asked
}
const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status })
const ENTRY = '11111111-1111-4111-8111-111111111111'

const failure = async (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => {
      throw new Error('it went well')
    },
    (error: unknown) => error,
  )

describe('a call', () => {
  it('fills the address and the query, and leaves out what was not given', async () => {
    const asked = answering(
      json({ changeId: ENTRY }),
      json({ occurrences: [], gaps: [], hours: [], mayChange: true }),
    )
    await call(deleteEntry, {
      params: { entryId: ENTRY },
      query: { recurrence: '2026-12-03T14:00', version: 3 },
    })
    await call(listEntries, {
      query: { from: '2026-11-23T00:00:00Z', to: '2026-11-24T00:00:00Z', of: undefined },
    })
    expect(asked.map(({ address, init }) => [init.method, address])).toEqual([
      ['DELETE', `/api/entries/${ENTRY}?recurrence=2026-12-03T14%3A00&version=3`],
      ['GET', '/api/entries?from=2026-11-23T00%3A00%3A00Z&to=2026-11-24T00%3A00%3A00Z'],
    ])
    expect(asked[1]?.init.body).toBeUndefined()
  })

  it('carries the key by which it can be repeated', async () => {
    const written = {
      entryId: ENTRY,
      recurrence: '2026-12-03T14:00',
      version: 1,
      changeId: ENTRY,
      start: '2026-12-03T13:00:00.000Z',
      end: '2026-12-03T14:00:00.000Z',
      moved: false,
    }
    const asked = answering(json(written))
    const body = { title: 'Firn', starts: '2026-12-03T14:00', minutes: 60, zone: 'Europe/Vienna' }
    expect(await call(createEntry, { body, key: 'once' })).toEqual(written)
    expect(asked[0]?.init.headers).toEqual({ 'content-type': 'application/json', 'idempotency-key': 'once' })
    expect(JSON.parse(String(asked[0]?.init.body))).toEqual(body)
  })

  it('that is refused gives the server’s own words, code and facts', async () => {
    const problem = {
      type: 'urn:marmot:problem:stale',
      title: 'Changed meanwhile',
      status: 409,
      code: 'stale',
      detail: 'This was changed meanwhile.',
      more: { newest: { version: 4 } },
    }
    answering(json(problem, 409))
    const error = await failure(
      call(deleteEntry, {
        params: { entryId: ENTRY },
        query: { recurrence: '2026-12-03T14:00', version: 3 },
      }),
    )
    expect(problemWords(error)).toBe('This was changed meanwhile.')
    expect(problemCode(error)).toBe('stale')
    expect(problemMore(error)).toEqual({ newest: { version: 4 } })
  })

  it.each([
    [
      'the server is away',
      [new TypeError('failed to fetch')],
      'offline',
      /cannot be reached.*nothing was sent/,
    ],
    ['a proxy answers a page', [new Response('<!doctype html>', { status: 502 })], 'unreadable', /Reload/],
    ['an answer lacks what was agreed', [json({ occurrences: 'many' })], 'unreadable', /Reload/],
    ['it is well and empty', [new Response('', { status: 200 })], 'unreadable', /Reload/],
  ])('says what to do when %s', async (_, answers, code, words) => {
    answering(...answers)
    const error = await failure(
      call(listEntries, { query: { from: '2026-11-23T00:00:00Z', to: '2026-11-24T00:00:00Z' } }),
    )
    expect(error).toBeInstanceOf(ApiProblem)
    expect(problemCode(error)).toBe(code)
    expect(problemWords(error)).toMatch(words)
  })

  it('that one gave up oneself is no problem to be told', async () => {
    const gone = new DOMException('gone', 'AbortError')
    answering(gone as unknown as Error)
    const abort = new AbortController()
    abort.abort()
    const query = { from: '2026-11-23T00:00:00Z', to: '2026-11-24T00:00:00Z' }
    expect(await failure(call(listEntries, { query, signal: abort.signal }))).toBe(gone)
  })
})

describe('a file', () => {
  it('is sent as its bytes, and refused in words', async () => {
    const asked = answering(
      json({ id: ENTRY }),
      json(
        {
          type: 'urn:marmot:problem:too-large',
          title: 'Too large',
          status: 413,
          code: 'too-large',
          detail: 'Too much.',
        },
        413,
      ),
    )
    const file = new Blob(['abc'])
    expect(await upload('/api/entries/x/attachments?name=a.txt', file)).toEqual({ id: ENTRY })
    expect(asked[0]?.init.body).toBe(file)
    expect(problemWords(await failure(upload('/api/entries/x/attachments?name=a.txt', file)))).toBe(
      'Too much.',
    )
  })
})

it('what nobody foresaw is said as what it is', () => {
  expect(problemWords(new Error('x is not a function'))).toBe('Something went wrong in this page. Reload it.')
  expect(problemCode(new Error('x'))).toBe('unforeseen')
  expect(problemMore(new Error('x'))).toEqual({})
})
