import type { Meeting } from '@marmot/contract/meetings'
import { brief as briefSchema } from '@marmot/contract/openings'
import { dayFromCivil, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { briefOf } from './take-up.ts'

const ZONE = zoneTable('Europe/Vienna')
const TODAY = dayFromCivil(2026, 11, 23) ?? 0
const [ILSE, TASHI, SERAC] = [crypto.randomUUID(), crypto.randomUUID(), crypto.randomUUID()]

const participant = (personId: string | null, name: string, address: string, organizer = false) => ({
  id: crypto.randomUUID(),
  personId,
  name,
  address,
  zone: personId && 'Europe/Vienna',
  required: personId !== null,
  organizer,
  answer: 'accepted' as const,
  message: '',
  answeredAt: null,
  answeredBy: null,
  seenAt: null,
  mail: 'sent' as const,
  mailMethod: 'REQUEST' as const,
  nudgedAt: null,
})

const MEETING: Meeting = {
  entryId: crypto.randomUUID(),
  title: 'Icefall survey',
  note: '<p>With ropes</p>',
  start: '2026-12-21T13:00:00.000Z',
  end: '2026-12-21T13:45:00.000Z',
  zone: 'Europe/Vienna',
  place: 'Serac, Innsbruck',
  places: [{ id: SERAC, name: 'Serac', siteId: crypto.randomUUID() }],
  organizer: 'Ilse',
  iOrganize: true,
  mayChange: true,
  cancelled: false,
  cancelReason: '',
  autoNudge: false,
  repeats: true,
  recurrence: '2026-12-21T14:00',
  series: [],
  myAnswer: 'accepted',
  participants: [
    participant(ILSE, 'Ilse', 'ilse@corrie.example', true),
    participant(TASHI, 'Tashi', 'tashi@corrie.example'),
    participant(null, 'mira@lodestar.example', 'mira@lodestar.example'),
  ],
  version: 3,
  untold: null,
}

describe('a meeting that is taken in hand again', () => {
  const taken = briefOf(MEETING, TODAY, ZONE)

  it('has its people, places, length and time, and says which date of which version it is', () => {
    expect(taken).toMatchObject({
      title: 'Icefall survey',
      note: 'With ropes',
      minutes: 45,
      people: [
        { id: ILSE, required: true },
        { id: TASHI, required: true },
      ],
      guests: [{ address: 'mira@lodestar.example', name: '', required: false }],
      places: [SERAC],
      start: Date.parse(MEETING.start),
      meeting: {
        entryId: MEETING.entryId,
        organizerId: ILSE,
        recurrence: '2026-12-21T14:00',
        version: 3,
        start: Date.parse(MEETING.start),
        minutes: 45,
      },
    })
    expect(briefSchema.parse(JSON.parse(JSON.stringify(taken)))).toEqual(taken)
  })

  it('is looked for from today until a week after its day, however far that is', () => {
    expect(taken.fromDay).toBe(TODAY)
    expect(taken.toDay).toBe((dayFromCivil(2026, 12, 21) ?? 0) + 8)
    const soon = briefOf({ ...MEETING, start: '2026-11-24T09:00:00.000Z' }, TODAY, ZONE)
    expect(soon.toDay).toBe(TODAY + 14)
  })
})
