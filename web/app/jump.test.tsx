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

describe('jump or do', () => {
  it('lists what begins with the words before what has them within', () => {
    serve({ 'GET /api/people': () => json({ people: [], teams: [] }) })
    const time = vi.fn()
    const done = jump([
      key('h', 'Hold the chosen time'),
      key('2', 'Time of mine', time),
      key('n', 'Next opening'),
      { keys: '← →', does: 'Move the chosen time (in the lanes)' },
    ])
    expect(options()).toEqual(['Hold the chosen timeh', 'Time of mine2', 'Next openingn'])
    type('time')
    expect(options()).toEqual(['Time of mine2', 'Hold the chosen timeh'])
    fireEvent.keyDown(screen.getByRole('combobox'), { key: 'Enter' })
    expect(time).toHaveBeenCalledTimes(1)
    expect(done).toHaveBeenCalledTimes(1)
  })

  it('never offers, while the answer is on its way, somebody whom the words do not mean', async () => {
    let answer: (response: Response) => void = () => undefined
    serve({
      'GET /api/people?q=tash': () => new Promise<Response>((resolve) => (answer = resolve)),
      'GET /api/people?q=ta': () =>
        json({ people: [person('Tashi Lhendup', 1), person('Marta Neira', 2)], teams: [] }),
    })
    jump([])
    type('ta')
    await waitFor(() => expect(options()).toEqual(['Tashi Lhendup drilling', 'Marta Neira drilling']))
    type('tash')
    expect(options()).toEqual(['Tashi Lhendup drilling'])
    answer(json({ people: [person('Tashi Lhendup', 1), person('Natasha Obi', 3)], teams: [] }))
    await waitFor(() => expect(options()).toEqual(['Tashi Lhendup drilling', 'Natasha Obi drilling']))
  })

  it('says so when there is nothing of that name', async () => {
    serve({ 'GET /api/people': () => json({ people: [], teams: [] }) })
    jump([key('n', 'Next opening')])
    type('zzz')
    expect(await screen.findByText('Nothing of that name.')).toBeTruthy()
  })
})
