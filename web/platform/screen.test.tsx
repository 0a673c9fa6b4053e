// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen as shown } from '@testing-library/react'
import { Suspense } from 'react'
import { afterEach, expect, it, vi } from 'vitest'
import { Messages } from '../app/messages.tsx'
import { part } from './part.tsx'
import { screen } from './screen.tsx'

afterEach(cleanup)

it('says that a screen could not be fetched, and shows it when it is asked for again', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  let online = false
  const Places = screen(async () => {
    if (!online) throw new TypeError('Failed to fetch dynamically imported module: /assets/places-1.js')
    return () => <p>Serac is free</p>
  })
  render(<Places />)
  expect(await shown.findByText(/could not be fetched/)).toBeTruthy()
  online = true
  fireEvent.click(shown.getByRole('button', { name: 'Try again' }))
  expect(await shown.findByText('Serac is free')).toBeTruthy()
})

it('says so when a screen breaks, and does not blame the network', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  const Broken = screen(async () => () => {
    throw new Error('no such place')
  })
  render(<Broken />)
  expect(await shown.findByText(/Something went wrong on this screen/)).toBeTruthy()
})

const AWAY = new TypeError('Failed to fetch dynamically imported module: /assets/agenda-1.js')

it.each([
  ['is told of', false],
  ['which nobody asked for is not told of', true],
])('a part that could not be fetched %s; the rest stays, and it comes with the network', async (_, quiet) => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  let online = false
  const Agenda = part<{ of: string }>(
    async () => {
      if (!online) throw AWAY
      return ({ of }) => <p>Agenda of {of}</p>
    },
    { quiet },
  )
  render(
    <>
      <p>Serac is free</p>
      <Suspense>
        <Agenda of="Ridge radio" />
      </Suspense>
      <Messages />
    </>,
  )
  await vi.waitFor(() => expect(console.error).toHaveBeenCalled())
  if (quiet) expect(shown.queryByText(/could not be fetched/)).toBeNull()
  else expect(await shown.findByText(/could not be fetched/)).toBeTruthy()
  expect(shown.getByText('Serac is free')).toBeTruthy()
  online = true
  await vi.waitFor(() => {
    window.dispatchEvent(new Event('online'))
    expect(shown.getByText('Agenda of Ridge radio')).toBeTruthy()
  })
})

it('a part that breaks is no matter of the network', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  const Broken = part(async () => () => {
    throw new Error('no such point')
  })
  const Whole = screen(async () => () => (
    <Suspense>
      <Broken />
    </Suspense>
  ))
  render(<Whole />)
  expect(await shown.findByText(/Something went wrong on this screen/)).toBeTruthy()
})
