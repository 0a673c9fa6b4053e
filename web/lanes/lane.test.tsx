// @vitest-environment happy-dom
import type { BusySpan } from '@marmot/core/availability'
import { instantOf, wallOf, zoneTable } from '@marmot/core/time'
import { cleanup, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it } from 'vitest'
import { wallAxis } from './axis.ts'
import { Lane } from './lane.tsx'

afterEach(cleanup)

const home = zoneTable('Europe/Vienna')
const DAY = Date.parse('2026-11-23T00:00:00Z') / 86_400_000
const at = (hour: number) => instantOf(home, wallOf(DAY, hour * 60))
const block = (from: number, to: number, title: string, state: BusySpan['state'] = 'busy'): BusySpan => ({
  start: at(from),
  end: at(to),
  state,
  title,
})

/** A day of 13 hours on 1,300 pixels with these blocks. */
const lane = (spans: readonly BusySpan[], roomy = true) =>
  render(
    <Lane
      time={{ zone: home.zone, known: true, hours: [], outside: 'outside', spans }}
      axis={wallAxis(home, DAY, 420, 1200)}
      width={1300}
      home={home}
      roomy={roomy}
    />,
  )
const styleOf = (title: string, name: string) =>
  screen.getByTitle(new RegExp(`, ${title}`)).style.getPropertyValue(name)

describe('blocks on a lane', () => {
  it('at the same time each have a part of its height, with their words', () => {
    lane([block(9, 10, 'Core planning'), block(9, 10, 'Saw blades')])
    expect([styleOf('Core planning', '--at'), styleOf('Saw blades', '--at')].sort()).toEqual(['0', '0.5'])
    for (const title of ['Core planning', 'Saw blades']) expect(screen.getByText(title)).toBeTruthy()
  })

  it('have all of it where nothing hides them', () => {
    lane([block(9, 11, 'Core planning'), block(10, 12, 'Saw blades')])
    expect(styleOf('Core planning', '--at')).toBe('')
    expect(styleOf('Saw blades', '--at')).toBe('')
  })

  it('have the upper half for their words, with perhaps something else in the lower', () => {
    lane([block(9, 10, 'Core planning'), block(9, 10, 'Gauge review', 'tentative')])
    expect(styleOf('Core planning', '--parts')).toBe('2')
    expect(screen.getByText('Core planning')).toBeTruthy()
    expect(screen.getByText('Gauge review')).toBeTruthy()
  })

  it('say nothing on a low lane where half of another would lie across the words', () => {
    lane([block(9, 10, 'Core planning'), block(9, 10, 'Gauge review', 'tentative')], false)
    expect(screen.queryByText('Core planning')).toBeNull()
  })
})
