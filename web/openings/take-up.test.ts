import { brief as briefSchema } from '@marmot/contract/briefs'
import { dayFromCivil, zoneTable } from '@marmot/core/time'
import { describe, expect, it } from 'vitest'
import { aMeeting, aParticipant } from '../testing/meeting.ts'
import { briefOf } from './take-up.ts'

const ZONE = zoneTable('Europe/Vienna')
const TODAY = dayFromCivil(2026, 11, 23) ?? 0
const [ILSE, TASHI, SERAC] = [crypto.randomUUID(), crypto.randomUUID(), crypto.randomUUID()]

const MEETING = aMeeting({
  start: '2026-12-21T13:00:00.000Z',
  end: '2026-12-21T13:45:00.000Z',
  zone: 'Europe/Vienna',
  places: [{ id: SERAC, name: 'Serac', siteId: crypto.randomUUID(), requested: false }],
  repeats: true,
  recurrence: '2026-12-21T14:00',
  participants: [
    aParticipant('Ilse', { personId: ILSE, organizer: true }),
    aParticipant('Tashi', { personId: TASHI }),
    aParticipant('mira@lodestar.example', {
      personId: null,
      address: 'mira@lodestar.example',
      zone: null,
      required: false,
    }),
  ],
})

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
    expect(briefSchema().parse(JSON.parse(JSON.stringify(taken)))).toEqual(taken)
  })

  it('is looked for from today until a week after its day, however far that is', () => {
    expect(taken.fromDay).toBe(TODAY)
    expect(taken.toDay).toBe((dayFromCivil(2026, 12, 21) ?? 0) + 8)
    const soon = briefOf({ ...MEETING, start: '2026-11-24T09:00:00.000Z' }, TODAY, ZONE)
    expect(soon.toDay).toBe(TODAY + 14)
  })
})
