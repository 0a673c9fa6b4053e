import type { Meeting, Participant } from '@marmot/contract/meetings'

/** Somebody who takes part in a made-up meeting and said yes, with whatever is otherwise. */
export const aParticipant = (name: string, more: Partial<Participant> = {}): Participant => ({
  id: crypto.randomUUID(),
  personId: crypto.randomUUID(),
  name,
  address: `${name.toLowerCase()}@corrie.example`,
  zone: 'Asia/Kathmandu',
  required: true,
  organizer: false,
  everyDate: true,
  answer: 'accepted',
  message: '',
  answeredAt: null,
  answeredBy: null,
  seenAt: null,
  mail: 'sent',
  mailMethod: 'REQUEST',
  nudgedAt: null,
  ...more,
})

/** A made-up meeting of Ilse's, with whatever is otherwise. */
export const aMeeting = (more: Partial<Meeting> = {}): Meeting => ({
  entryId: crypto.randomUUID(),
  title: 'Icefall survey',
  note: '<p>With ropes</p>',
  start: '2026-12-03T13:00:00.000Z',
  end: '2026-12-03T14:00:00.000Z',
  zone: 'Asia/Kathmandu',
  place: 'Serac, Innsbruck',
  places: [{ id: 'serac', name: 'Serac', siteId: 'innsbruck' }],
  organizer: 'Ilse',
  iOrganize: true,
  mayChange: true,
  cancelled: false,
  cancelReason: '',
  autoNudge: false,
  repeats: false,
  recurrence: null,
  series: [],
  myAnswer: 'accepted',
  participants: [
    aParticipant('Ilse', { organizer: true }),
    aParticipant('Tashi'),
    aParticipant('Noor', { personId: null, address: 'noor@lodestar.example', zone: null }),
  ],
  elsewhere: [],
  version: 3,
  untold: null,
  ...more,
})
