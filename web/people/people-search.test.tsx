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
