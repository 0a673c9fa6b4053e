import type { MeetingMessage } from '@marmot/core/letters'
import { expect, it } from 'vitest'
import { calendarWriter } from './calendars.ts'

const part = (attendees: number, more: Partial<MeetingMessage> = {}) => ({
  method: 'REQUEST' as const,
  message: {
    uid: 'moraine',
    sequence: 0,
    stamp: Date.UTC(2026, 10, 23, 8),
    start: Date.UTC(2026, 11, 3, 9),
    end: Date.UTC(2026, 11, 3, 10),
    zone: 'Europe/Vienna',
    title: 'Moraine survey',
    description: '',
    place: '',
    rsvp: true,
    organizer: { name: 'Ilse Brandacher', address: 'ilse.brandacher@corrie.example' },
    participants: Array.from({ length: attendees }, (_, i) => ({
      name: `Walker ${i}`,
      address: `walker-${i}@lodestar.example`,
      required: true,
      answer: 'needs-action' as const,
    })),
    ...more,
  },
})

it('a calendar part with many attendees is written in a thread, once for all letters that say the same', async () => {
  const asked: unknown[] = []
  const write = calendarWriter({
    run: async <I, O>(name: string, input: I) => {
      asked.push([name, input])
      return 'from a thread' as O
    },
  })
  expect(await write(part(2))).toContain('ATTENDEE')
  expect(asked).toEqual([])
  const [one, again, otherwise] = await Promise.all([
    write(part(300)),
    write(part(300)),
    write(part(300, { title: 'Moraine, corrected' })),
  ])
  expect([one, again, otherwise]).toEqual(['from a thread', 'from a thread', 'from a thread'])
  expect(asked).toEqual([
    ['writeCalendar', part(300)],
    ['writeCalendar', part(300, { title: 'Moraine, corrected' })],
  ])
})
