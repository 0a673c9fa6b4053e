// @vitest-environment happy-dom
import type { VisitLine } from '@marmot/contract/visit-pages'
import { DAY, HOUR } from '@marmot/core/time'
import { fireEvent, screen, within } from '@testing-library/react'
import { expect, it } from 'vitest'
import { json, NOW, serve, show } from '../testing/screen.tsx'
import { VisitsTable } from './visits-table.tsx'

const visit = (name: string, start: number, more: Partial<VisitLine> = {}): VisitLine => ({
  visitId: crypto.randomUUID(),
  entryId: crypto.randomUUID(),
  kind: 'Core viewing',
  name,
  address: `${name.split(' ')[0]?.toLowerCase()}@lodestar.example`,
  host: 'Tashi Lhendup',
  start: new Date(start).toISOString(),
  end: new Date(start + HOUR).toISOString(),
  state: 'coming',
  moves: 0,
  guests: 0,
  answers: [],
  takenAt: new Date(NOW).toISOString(),
  ...more,
})

it('the visits stand the latest first, lead to their meeting unless they are cancelled, and are found by an address', async () => {
  const visits = [
    visit('Kofi Mensah', NOW - DAY, { state: 'over' }),
    visit('Rosa Quispe', NOW + 2 * DAY, { guests: 2, moves: 1 }),
    visit('Noor Haddad', NOW + DAY, { state: 'cancelled', entryId: null }),
  ]
  serve({ 'GET /api/visits': () => json({ visits }) })
  show(<VisitsTable />)
  const table = within(await screen.findByRole('table', { name: 'Visits' }))
  const row = (name: RegExp) => table.getByRole('row', { name })
  expect(table.getAllByRole('row').map((one) => /Rosa|Noor|Kofi/.exec(one.textContent ?? '')?.[0])).toEqual([
    undefined,
    'Rosa',
    'Noor',
    'Kofi',
  ])
  expect(row(/Rosa/).textContent).toMatch(/Rosa Quispe and 2 more.*to come.*1×/)
  expect(row(/Noor/).textContent).toMatch(/Noor Haddad.*cancelled/)
  expect(within(row(/Rosa/)).getByRole('link').getAttribute('href')).toMatch(/meeting=/)
  expect(within(row(/Noor/)).queryByRole('link')).toBeNull()
  fireEvent.change(screen.getByLabelText('Find in the visits'), { target: { value: 'kofi@lodestar' } })
  expect(await screen.findByText('1 visit')).toBeTruthy()
})
