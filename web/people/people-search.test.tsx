// @vitest-environment happy-dom
import { fireEvent, screen } from '@testing-library/react'
import { createRef } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { json, serve, show } from '../testing/screen.tsx'
import { Sheet } from '../ui/sheet.tsx'
import { PeopleSearch } from './people-search.tsx'

describe('looking for people in a sheet', () => {
  it('is emptied by Escape, then left; the sheet closes by the third only', () => {
    serve({ 'GET /api/people': () => json({ people: [], teams: [] }) })
    const closed = vi.fn()
    show(
      <Sheet open onClose={closed} title="Meet right away">
        <PeopleSearch inputRef={createRef()} taken={new Set()} onPeople={vi.fn()} />
      </Sheet>,
    )
    const field = screen.getByRole<HTMLInputElement>('combobox')
    field.focus()
    fireEvent.change(field, { target: { value: 'Tashi' } })
    const pressEscape = () => fireEvent.keyDown(document.activeElement ?? document.body, { key: 'Escape' })
    pressEscape()
    expect([field.value, document.activeElement === field]).toEqual(['', true])
    pressEscape()
    expect(document.activeElement).not.toBe(field)
    expect(closed).not.toHaveBeenCalled()
    pressEscape()
    expect(closed).toHaveBeenCalled()
  })
})

describe('looking for people faster than they are found', () => {
  it('takes nobody by Enter whom the letters typed since rule out', async () => {
    const named = (name: string) => ({
      id: crypto.randomUUID(),
      name,
      address: `${name.toLowerCase().replace(' ', '.')}@corrie.example`,
      role: 'observer',
      siteId: crypto.randomUUID(),
      zone: 'UTC',
      teams: [],
    })
    const [callum, catalina] = [named('Callum Birnie'), named('Catalina Reyes')]
    let answered = false
    serve({
      'GET /api/people': () => {
        if (answered) return new Promise<never>(() => undefined)
        answered = true
        return json({ people: [callum, catalina], teams: [] })
      },
    })
    const onPeople = vi.fn()
    show(<PeopleSearch inputRef={createRef()} taken={new Set()} onPeople={onPeople} />)
    const field = screen.getByRole<HTMLInputElement>('combobox')
    field.focus()
    fireEvent.change(field, { target: { value: 'Ca' } })
    await screen.findByText('Callum Birnie')
    fireEvent.change(field, { target: { value: 'Catalina R' } })
    fireEvent.keyDown(field, { key: 'Enter' })
    expect(onPeople.mock.calls).toEqual([[[catalina]]])
  })
})
