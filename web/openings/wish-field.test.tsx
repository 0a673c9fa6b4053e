// @vitest-environment happy-dom
import type { Brief } from '@marmot/contract/briefs'
import type { Resource } from '@marmot/contract/resources'
import { fireEvent, screen } from '@testing-library/react'
import { useState } from 'react'
import { beforeEach, describe, expect, it } from 'vitest'
import { show } from '../testing/screen.tsx'
import { WishField } from './wish-field.tsx'

type Need = Brief['needs'][number]
const NEED: Need = { kind: 'room', siteId: null, least: 1, count: 1, seats: null, features: {} }
const place = (name: string, seats: number, features: Record<string, number>): Resource => ({
  id: name,
  name,
  kind: 'room',
  siteId: 'home',
  site: 'Innsbruck',
  floor: '1',
  seats,
  features,
  about: '',
  picture: null,
  rules: {
    trainedOnly: false,
    teams: [],
    asksApproval: false,
    approvalHours: 48,
    hours: [],
    before: 0,
    after: 0,
    shortest: null,
    longest: null,
    aheadDays: null,
    notice: null,
    atOnce: null,
  },
  closed: [],
  mayNot: null,
  mine: 0,
  zone: 'Europe/Vienna',
  steward: null,
  looksAfter: false,
})
const PLACES = [
  place('Serac', 8, { screens: 2 }),
  place('Col', 12, { screens: 2, camera: 1 }),
  place('Tarn', 4, {}),
]

let [need, taken] = [NEED, [] as string[]]

const Kept = () => {
  const [now, setNow] = useState(NEED)
  need = now
  return (
    <WishField
      need={now}
      resources={PLACES}
      taken={[]}
      homeSite="home"
      onNeed={(next) => setNow((before) => ({ ...before, ...next }))}
      onPlace={(id) => taken.push(id)}
    />
  )
}
const type = (text: string) =>
  fireEvent.change(screen.getByLabelText('Type what it needs'), { target: { value: text } })
const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }))
beforeEach(() => {
  taken = []
  show(<Kept />)
})

describe('what a meeting needs, typed', () => {
  it('is read as features and seats, and no more once it is not typed', () => {
    type('two screens, for 8')
    expect(need).toMatchObject({ features: { screens: 2 }, seats: 8 })
    expect(screen.getByRole('status').textContent).toBe('2 places have that')
    type('two screens')
    expect(need).toMatchObject({ features: { screens: 2 }, seats: null })
    type('')
    expect(need).toMatchObject({ features: {}, seats: null })
  })

  it('says what to give up where no place has it', () => {
    type('camera, for 40')
    expect(screen.getByRole('status').textContent).toContain('No place has all of that.')
    press('1 place without so many seats')
    expect(need).toMatchObject({ features: { camera: 1 }, seats: null })
  })

  it('offers a place that is named', () => {
    type('ser')
    press('Serac itself')
    expect(taken).toEqual(['Serac'])
  })
})
