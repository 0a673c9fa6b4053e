// @vitest-environment happy-dom
import type { ListedContact } from '@marmot/contract/contacts'
import { fireEvent, screen } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { json, serve, show } from '../testing/screen.tsx'
import { About } from './about.tsx'

const guest = (name: string): ListedContact => ({
  id: crypto.randomUUID(),
  name,
  organisation: 'Lodestar',
  addresses: [],
  telephone: '',
  madeBy: 'hand',
  lastAt: null,
})

describe('whom something is about', () => {
  it('is found by letters: the first eight by name, whatever the order in which they came', async () => {
    const names = ['Guest K', 'Guest B', 'Noor', 'Guest J', 'Guest A', 'Guest I', 'Guest C', 'Guest H']
    const contacts = [...names, 'Guest D', 'Guest G', 'Guest E', 'Guest F'].map(guest)
    const [, second] = contacts
    const asked = serve({
      'GET /api/contacts/about': () => json({ contacts: [] }),
      'GET /api/contacts': () => json({ contacts, more: false }),
      'PUT /api/contacts/': () => json({}),
    })
    show(<About subject={{ kind: 'entry', id: crypto.randomUUID() }} />)
    fireEvent.click(await screen.findByText('About somebody…'))
    fireEvent.change(screen.getByLabelText('Find a contact'), { target: { value: 'gue' } })
    await screen.findByText('Guest A')
    expect(screen.getAllByRole('listitem').map((one) => one.textContent?.slice(0, 7))).toEqual(
      ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H'].map((letter) => `Guest ${letter}`),
    )
    fireEvent.click(screen.getByText('Guest B'))
    await expect
      .poll(() => asked.some((one) => one.method !== 'GET' && one.path.includes(second?.id ?? '?')))
      .toBe(true)
  })
})
