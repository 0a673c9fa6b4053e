import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { problemOf, startTestMarmot, type TestMarmot, until } from '../testing/marmot.ts'

let marmot: TestMarmot
beforeAll(async () => {
  marmot = await startTestMarmot()
})
afterAll(() => marmot.stop())

const enter = (address: string, password: string) =>
  marmot.anyone('POST', '/api/session', { address, password })

describe('signing in', () => {
  it('opens a session by a cookie that scripts cannot read, and closes it', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    expect((await ilse.get<{ person: { name: string } }>('/api/session')).body.person.name).toBe(
      'Ilse Brandacher',
    )
    const again = await enter('ilse.brandacher@corrie.example', 'watch-the-ridge')
    expect(again.headers.get('set-cookie')).toMatch(/httponly/i)
    expect(again.headers.get('set-cookie')).toMatch(/samesite=lax/i)
    await ilse.send('DELETE', '/api/session')
    expect(problemOf(await ilse.get('/api/session'))).toMatchObject({ status: 401, code: 'not-signed-in' })
  })

  it('keeps no token that could be used, only its hash', async () => {
    const tashi = await marmot.as('Tashi Lhendup')
    const token = tashi.cookie.split('=')[1] ?? ''
    const rows = await marmot.pool.query<{ token_hash: Buffer }>('select token_hash from session')
    expect(
      rows.rows.every(
        (row) => row.token_hash.toString('base64url') !== token && row.token_hash.length === 32,
      ),
    ).toBe(true)
  })

  it('says that a password is wrong, the same for a person who does not exist', async () => {
    const wrong = await enter('matteo.ruprechter@corrie.example', 'guess')
    const nobody = await enter('nobody@corrie.example', 'guess')
    expect(problemOf(wrong)).toMatchObject({ status: 401, code: 'wrong-password' })
    expect(nobody.text).toBe(wrong.text)
    expect(wrong.headers.get('content-type')).toMatch('application/problem+json')
  })

  it('slows down after many wrong ones, even for the right one', async () => {
    for (let i = 0; i < 5; i++) await enter('aroha.pene@corrie.example', `guess ${i}`)
    const right = await enter('aroha.pene@corrie.example', 'watch-the-ridge')
    expect(problemOf(right)).toMatchObject({ status: 429, code: 'too-many-tries' })
    expect(Number(right.headers.get('retry-after'))).toBeGreaterThan(0)
  })

  it('counts guesses that come all at once', async () => {
    const guesses = Array.from({ length: 40 }, (_, i) => enter('catalina.reyes@corrie.example', `guess ${i}`))
    const statuses = (await Promise.all(guesses)).map((answer) => answer.status)
    expect(statuses.filter((status) => status === 401).length).toBeLessThanOrEqual(5)
    expect(statuses.every((status) => status === 401 || status === 429)).toBe(true)
  })

  it('slows a client down that tries one address after the other', async () => {
    await marmot.pool.query('delete from sign_in_failure')
    for (let i = 0; i < 50; i++) await enter(`nobody.${i}@corrie.example`, 'guess')
    expect(problemOf(await enter('declan.furey@corrie.example', 'watch-the-ridge'))).toMatchObject({
      status: 429,
      code: 'too-many-tries',
    })
    await marmot.pool.query('delete from sign_in_failure')
  })

  it('names the field when an address is none', async () => {
    const answer = await enter('ilse at corrie', 'x')
    expect(problemOf(answer)).toMatchObject({ status: 422, code: 'invalid', fields: [{ path: 'address' }] })
  })
})

describe('a session', () => {
  const stream = async (cookie: string) => {
    const response = await fetch(`${marmot.url}/api/events`, { headers: { cookie } })
    const reader = response.body?.getReader()
    let over = false
    const follow = async () => {
      while (!(await reader?.read())?.done);
      over = true
    }
    follow().catch(() => undefined)
    // At once: by the next beat, twenty seconds later, it would be over all the same.
    return () => until(() => over, Boolean, 5)
  }

  it('ends its streams with it, and the one before it in the same browser', async () => {
    const matteo = await marmot.as('Matteo Ruprechter')
    const ended = await stream(matteo.cookie)
    await matteo.send('DELETE', '/api/session')
    expect(await ended()).toBe(true)

    const before = await marmot.as('Matteo Ruprechter')
    await marmot.anyone(
      'POST',
      '/api/session',
      { address: matteo.person.address, password: 'watch-the-ridge' },
      { cookie: before.cookie },
    )
    expect((await before.get('/api/session')).status).toBe(401)
  })

  it('can end all others of the same person, wherever they are', async () => {
    const [here, there] = [await marmot.as('Wanjiru Kamande'), await marmot.as('Wanjiru Kamande')]
    const ended = await stream(there.cookie)
    const answer = await here.send<{ ended: number }>('DELETE', '/api/session/others')
    expect(answer.body.ended).toBeGreaterThanOrEqual(1)
    expect(await ended()).toBe(true)
    expect([(await here.get('/api/session')).status, (await there.get('/api/session')).status]).toEqual([
      200, 401,
    ])
  })
})

describe('the interface', () => {
  it('refuses a foreign origin before anything happens', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    const answer = await ilse.send('DELETE', '/api/session', undefined, {
      origin: 'https://elsewhere.example',
    })
    expect(problemOf(answer)).toMatchObject({ status: 403, code: 'foreign-origin' })
    expect((await ilse.get('/api/session')).status).toBe(200)
    expect((await ilse.send('DELETE', '/api/session', undefined, { origin: marmot.url })).status).toBe(200)
  })

  it('refuses malformed and oversized bodies', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    expect(problemOf(await ilse.send('POST', '/api/entries', '{"title": '))).toMatchObject({
      status: 400,
      code: 'malformed',
    })
    const large = await ilse.send('POST', '/api/entries', JSON.stringify({ title: 'x'.repeat(300_000) }))
    expect(problemOf(large)).toMatchObject({ status: 413, code: 'too-large' })
  })

  it('answers unknown routes and ids with a problem', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    expect(problemOf(await ilse.get('/api/nothing'))).toMatchObject({ status: 404, code: 'no-such-route' })
    expect((await ilse.get('/api/meetings/not-an-id')).status).toBe(404)
    expect(
      problemOf(await ilse.timeOf(['nobody'], 'from=2026-12-01T00:00:00Z&to=2026-12-02T00:00:00Z')),
    ).toMatchObject({ status: 422, code: 'invalid' })
  })

  it('lets nobody in who is not signed in', async () => {
    const description = await marmot.anyone<{
      paths: Record<string, Record<string, { security: unknown[] }>>
    }>('GET', '/api/openapi.json')
    const guarded = Object.entries(description.body.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, about]) => (about.security.length ? [{ path, method }] : [])),
    )
    expect(guarded.length).toBeGreaterThan(10)
    for (const { path, method } of guarded) {
      const id = '00000000-0000-4000-8000-000000000000'
      const answer = await marmot.anyone(
        method.toUpperCase(),
        path.replace(/\{\w+\}/g, id),
        method === 'get' ? undefined : {},
      )
      expect([path, answer.status]).toEqual([path, 401])
    }
  })

  it('is healthy while the database is', async () => {
    expect((await marmot.anyone('GET', '/api/health')).body).toEqual({ ok: true })
  })

  it('finds people by name, address and team', async () => {
    const ilse = await marmot.as('Ilse Brandacher')
    const find = async (q: string) =>
      (
        await ilse.get<{ people: { name: string }[]; teams: { name: string; members: unknown[] }[] }>(
          `/api/people?q=${encodeURIComponent(q)}`,
        )
      ).body
    expect((await find('lhen')).people.map((person) => person.name)).toEqual(['Tashi Lhendup'])
    expect((await find('wanjiru.k')).people.map((person) => person.name)).toEqual(['Wanjiru Kamande'])
    expect((await find('ice')).teams[0]).toMatchObject({ name: 'Ice Core' })
    expect((await find('%')).people).toEqual([])
  })
})
