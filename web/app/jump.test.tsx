// @vitest-environment happy-dom
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { WithBrief } from '../openings/brief.tsx'
import type { Key } from '../platform/keys.tsx'
import { json, serve, show } from '../testing/screen.tsx'
import { Jump } from './jump.tsx'

const key = (keys: string, does: string, run = vi.fn()): Key => ({ keys, does, on: keys, run })
const person = (name: string, i: number) => ({
  id: `50000000-0000-4000-8000-00000000000${i}`,
  name,
  address: `${i}@corrie.example`,
  role: 'drilling',
  siteId: '20000000-0000-4000-8000-000000000001',
  zone: 'Europe/Vienna',
  teams: ['Ice Core'],
})

/** What the server finds: these people, and whatever else is said. */
const found = (people: readonly unknown[] = [], more: Record<string, unknown> = {}) => ({
  entries: [],
  people,
  teams: [],
  contacts: [],
  todos: [],
  daysOff: [],
  places: [],
  alike: false,
  partly: false,
  ...more,
})

const jump = (keys: readonly Key[]) => {
  const done = vi.fn()
  show(
    <WithBrief>
      <Jump keys={keys} onDone={done} />
    </WithBrief>,
  )
  return done
}
const type = (text: string) => fireEvent.change(screen.getByRole('combobox'), { target: { value: text } })
const options = () => screen.getAllByRole('option').map((one) => one.textContent)

describe('find', () => {
  it('lists what begins with the words before what has them within', () => {
    serve({ 'GET /api/search': () => json(found()) })
    const time = vi.fn()
    const done = jump([
      key('h', 'Hold the chosen time'),
      key('2', 'Time of mine', time),
      key('n', 'Next opening'),
      { keys: '← →', does: 'Move the chosen time (in the lanes)' },
    ])
    expect(options()).toEqual(['Hold the chosen timeh', 'Time of mine2', 'Next openingn'])
    type('time')
    expect(options()).toEqual([
      'Time of mine2',
      'Hold the chosen timeh',
      'Working hours, time zone and how days are drawn',
      'Sharing: who sees my time, and who acts for me',
      'Visitors: pages on which people from outside pick a time of mine',
    ])
    fireEvent.keyDown(screen.getByRole('combobox'), { key: 'Enter' })
    expect(time).toHaveBeenCalledTimes(1)
    expect(done).toHaveBeenCalledTimes(1)
  })

  it('never offers, while the answer is on its way, somebody whom the words do not mean', async () => {
    let answer: (response: Response) => void = () => undefined
    serve({
      'GET /api/search?q=tash&most=12': () => new Promise<Response>((resolve) => (answer = resolve)),
      'GET /api/search?q=ta&most=12': () =>
        json(found([person('Tashi Lhendup', 1), person('Marta Neira', 2)])),
    })
    jump([])
    type('ta')
    await waitFor(() => expect(options()).toEqual(['Tashi Lhendup drilling', 'Marta Neira drilling']))
    type('tash')
    expect(options()).toEqual(['Tashi Lhendup drilling'])
    answer(json(found([person('Tashi Lhendup', 1), person('Natasha Obi', 3)])))
    await waitFor(() => expect(options()).toEqual(['Tashi Lhendup drilling', 'Natasha Obi drilling']))
  })

  it('says so when there is nothing of that name', async () => {
    serve({ 'GET /api/search': () => json(found()) })
    jump([key('n', 'Next opening')])
    type('zzz')
    expect(await screen.findByText(/^Nothing was found\. You can look for/)).toBeTruthy()
  })

  it('knows a day by what one calls it, and a setting by its words', async () => {
    serve({ 'GET /api/search': () => json(found()) })
    jump([])
    type('next tue')
    expect(options()).toEqual(['Tuesday 1 December'])
    type('import')
    expect(options()).toEqual(['Import and export of calendar files'])
  })

  it('shows what was found under headings, with when it is and whose, and what looks alike as that', async () => {
    const entry = {
      entryId: '60000000-0000-4000-8000-000000000001',
      recurrence: '2026-12-03T14:00',
      title: 'Firn core review',
      place: 'Serac, Innsbruck',
      start: '2026-12-03T13:00:00.000Z',
      end: '2026-12-03T14:00:00.000Z',
      allDay: false,
      repeats: true,
      meeting: true,
      owner: 'Henrike Aasland',
      mine: true,
      answer: 'declined',
      laneOf: null,
      whole: true,
    }
    serve({
      'GET /api/search?q=firn&most=12': () => json(found([], { entries: [entry] })),
      'GET /api/search?q=fern&most=12': () => json(found([], { entries: [entry], alike: true })),
    })
    jump([])
    type('firn')
    await screen.findByText('Entries and meetings')
    expect(options()[0]).toBe(
      'Firn core reviewThu 3 Dec, 14:00 to 15:00repeats, Serac, Innsbruck, Henrike Aasland, you said no',
    )
    type('fern')
    expect(await screen.findByText('Nothing has these words; this looks like them')).toBeTruthy()
  })
})
