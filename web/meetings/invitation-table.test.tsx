// @vitest-environment happy-dom
import type { ListedInvitation } from '@marmot/contract/meetings'
import { DAY, HOUR } from '@marmot/core/time'
import { act, fireEvent, screen, within } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { json, NOW, problem, serve, show } from '../testing/screen.tsx'
import { InvitationTable } from './invitation-table.tsx'

const invited = (title: string, start: number, more: Partial<ListedInvitation> = {}): ListedInvitation => ({
  entryId: crypto.randomUUID(),
  recurrence: '2026-11-24T10:00',
  title,
  place: 'Firn, Innsbruck',
  start: new Date(start).toISOString(),
  end: new Date(start + HOUR).toISOString(),
  allDay: false,
  repeats: false,
  organizer: 'Henrike Aasland',
  answer: 'accepted',
  ...more,
})
const review = invited('Firn core review', NOW + 3 * DAY, { answer: 'needs-action' })
const heads = invited('Heads of teams', NOW + DAY, { repeats: true })
const last = invited('Station call', NOW - DAY, { answer: 'declined', organizer: 'Tashi Lhendup' })

const open = () => undefined

afterEach(() => {
  vi.useRealTimers()
})

const rows = async () =>
  within(await screen.findByRole('table', { name: 'Invitations' }))
    .getAllByRole('row')
    .slice(1)
    .map((row) => row.textContent)

describe('the list of invitations', () => {
  it('has what is to come first, with who invites and what was said, and opens each', async () => {
    serve({ 'GET /api/invitations': () => json({ invitations: [last, review, heads], more: false }) })
    const opened = vi.fn()
    show(<InvitationTable onOpen={opened} />)
    const [first, second, third] = await rows()
    expect(first).toMatch(/Heads of teams.*Henrike Aasland.*repeats.*yes/)
    expect(second).toMatch(/Firn core review.*awaits an answer/)
    expect(third).toMatch(/Station call.*Tashi Lhendup.*no/)
    fireEvent.click(screen.getByRole('button', { name: 'Firn core review' }))
    expect(opened).toHaveBeenCalledWith(review)
    fireEvent.change(screen.getByLabelText('In groups'), { target: { value: 'answer' } })
    expect((await rows()).filter((row) => row?.endsWith('(1)'))).toEqual([
      'yes (1)',
      'awaits an answer (1)',
      'no (1)',
    ])
  })

  it('says that something is over once it is, while one looks', async () => {
    vi.useFakeTimers({ toFake: ['Date', 'setInterval', 'clearInterval'], now: NOW })
    const soon = invited('Rope talk', NOW - HOUR / 2)
    serve({ 'GET /api/invitations': () => json({ invitations: [soon], more: false }) })
    show(<InvitationTable onOpen={open} />)
    await screen.findByText('Rope talk')
    fireEvent.change(screen.getByLabelText('In groups'), { target: { value: 'start' } })
    expect((await rows())[0]).toBe('to come (1)')
    act(() => vi.advanceTimersByTime(HOUR))
    expect((await rows())[0]).toBe('over (1)')
  })

  it('says what there is to say of none, and of a server that does not answer', async () => {
    serve({ 'GET /api/invitations': () => json({ invitations: [], more: false }) })
    show(<InvitationTable onOpen={() => undefined} />)
    expect(await screen.findByText(/^Nobody has invited you/)).toBeTruthy()
    serve({ 'GET /api/invitations': () => problem(404, 'not-found', 'There is nothing here.') })
    show(<InvitationTable onOpen={() => undefined} />)
    expect(await screen.findByText('There is nothing here.')).toBeTruthy()
  })
})
