// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen as shown } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'
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
