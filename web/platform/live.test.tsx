// @vitest-environment happy-dom
import { useQuery } from '@tanstack/react-query'
import { fireEvent, screen } from '@testing-library/react'
import { useState } from 'react'
import { describe, expect, it } from 'vitest'
import { json, serve, show } from '../testing/screen.tsx'
import { Button } from '../ui/parts.tsx'
import { ask } from './ask.ts'
import { ON_MY_TIME, useMyTimeChanged } from './live.ts'
import { useMe } from './session.tsx'

/** Something on the screen, something that is asked beside it, and a sheet that closes once what it changed stands there. */
const Screen = () => {
  const seen = useQuery({
    queryKey: ['seen'],
    queryFn: () => ask('GET', '/api/seen'),
    meta: { heeds: ON_MY_TIME },
  })
  useQuery({
    queryKey: ['aside'],
    queryFn: () => ask('GET', '/api/aside'),
    meta: { heeds: ON_MY_TIME, aside: true },
  })
  const changed = useMyTimeChanged(useMe().person.id)
  const [open, setOpen] = useState(true)
  return (
    <>
      <p>{open ? 'open' : 'closed'}</p>
      {seen.isSuccess && <Button onClick={() => changed().then(() => setOpen(false))}>Change</Button>}
    </>
  )
}

describe('what asks anew once something changed', () => {
  it('waits for what is on the screen, and not for what is asked beside it', async () => {
    let seenAnew: (answer: Response) => void = () => undefined
    let seen = 0
    let aside = 0
    serve({
      'GET /api/seen': () =>
        seen++ === 0
          ? json(1)
          : new Promise((answer) => {
              seenAnew = answer
            }),
      'GET /api/aside': () => (aside++ === 0 ? json(1) : new Promise(() => undefined)),
    })
    show(<Screen />)
    fireEvent.click(await screen.findByText('Change'))
    await expect.poll(() => [seen, aside]).toEqual([2, 2])
    expect(screen.getByText('open')).toBeTruthy()
    seenAnew(json(2))
    expect(await screen.findByText('closed')).toBeTruthy()
  })
})
