import { describe, expect, it } from 'vitest'
import { startClock } from './clock.ts'
import { readSettings } from './settings.ts'

describe('settings', () => {
  it('have sensible defaults', () => {
    expect(readSettings({ DATABASE_URL: 'postgres://x' })).toMatchObject({
      port: 4460,
      smtpUrl: 'smtp://127.0.0.1:4461',
      demo: true,
      now: null,
    })
  })

  it('name every fault at once', () => {
    expect(() => readSettings({ PORT: '70000', MARMOT_NOW: 'soon' })).toThrow(
      /PORT.*DATABASE_URL.*MARMOT_NOW|DATABASE_URL.*PORT|PORT.*MARMOT_NOW/s,
    )
  })

  it('start the clock elsewhere, and let it run', () => {
    const from = '2026-11-23T08:12:00Z'
    const clock = startClock(from)
    const first = clock()
    expect(first - Date.parse(from)).toBeLessThan(5000)
    expect(first).toBeGreaterThanOrEqual(Date.parse(from))
    expect(clock()).toBeGreaterThanOrEqual(first)
  })
})
