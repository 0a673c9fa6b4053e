import type { OccurrenceOnWire } from '@marmot/contract/entries'

/** A date of a meeting of somebody else's to which Ilse is invited, with whatever is otherwise. */
export const anOccurrence = (more: Partial<OccurrenceOnWire> = {}): OccurrenceOnWire => ({
  entryId: '11111111-1111-4111-8111-111111111111',
  recurrence: '2026-12-03T10:45',
  start: '2026-12-03T09:45:00.000Z',
  end: '2026-12-03T10:30:00.000Z',
  zone: 'Europe/Vienna',
  allDay: false,
  title: 'Core planning',
  place: '',
  shows: 'busy',
  state: 'busy',
  answer: 'tentative',
  repeats: true,
  changed: false,
  meeting: true,
  reserved: false,
  answered: null,
  own: false,
  private: false,
  outdoors: null,
  categoryId: 'c1',
  attached: false,
  hidden: false,
  version: 1,
  ...more,
})
