// @vitest-environment happy-dom
import type { OccurrenceOnWire } from '@marmot/contract/entries'
import { dayOf, HOUR, toWall, zoneTable } from '@marmot/core/time'
import { act, renderHook, waitFor } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { ownSpan } from '../entries/entries.ts'
import { anOccurrence } from '../testing/occurrence.ts'
import { Inside, json, NOW, problem, serve } from '../testing/screen.tsx'
import type { Days } from './use-days.ts'
import { type Hand, useHand } from './use-hand.ts'

const zone = zoneTable('Europe/Vienna')
const today = dayOf(toWall(zone, NOW))
const ofMine = (title: string, start: number): OccurrenceOnWire =>
  anOccurrence({
    entryId: crypto.randomUUID(),
    title,
    start: new Date(start).toISOString(),
    end: new Date(start + HOUR).toISOString(),
    own: true,
    meeting: false,
    repeats: false,
  })
const airing = ofMine('Tent airing', NOW + 2 * HOUR)
const ropes = ofMine('Rope check', NOW + 5 * HOUR)

/** A week with two entries of one's own. */
const week = {
  view: { zone, now: NOW, today, lens: { first: today, days: 7 }, look: () => undefined },
  spans: [airing, ropes].flatMap(ownSpan),
  year: false,
  mayChange: true,
  mayMove: () => true,
  faint: () => false,
} as unknown as Days

const inHand = () => renderHook(() => useHand(week, undefined), { wrapper: Inside }).result
const chosenIn = (hand: { current: Hand }) => hand.current.chosen

/** Takes the first entry up by key and puts it down an hour later: what waits is the answer to that. */
const putDown = async (hand: { current: Hand }) => {
  act(() => hand.current.step(1))
  act(() => hand.current.takeUp())
  const { chosen, holding } = hand.current
  if (!chosen) throw new Error('nothing is chosen')
  const later = { ...chosen, start: chosen.start + HOUR, end: chosen.end + HOUR }
  act(() => hand.current.choose(later))
  let answered: Promise<void> = Promise.resolve()
  await act(async () => {
    answered = hand.current.take(later, holding)
  })
  return { later, answered }
}

describe('what is in hand on My time', () => {
  it('was put down by key: it stays chosen there, and where it stood when that is refused', async () => {
    serve({
      'GET /api/entries/': () => problem(409, 'changed-meanwhile', 'Somebody changed it meanwhile.'),
    })
    const hand = inHand()
    const { later, answered } = await putDown(hand)
    await act(() => answered)
    expect(chosenIn(hand)).toMatchObject({ start: later.start - HOUR, end: later.end - HOUR })
  })

  it('is what was chosen last, when an answer comes after one has gone on', async () => {
    let refuse = () => {}
    serve({
      'GET /api/entries/': () =>
        new Promise((done) => {
          refuse = () => done(problem(409, 'changed-meanwhile', 'Somebody changed it meanwhile.'))
        }),
    })
    const hand = inHand()
    const { answered } = await putDown(hand)
    act(() => hand.current.step(1))
    const next = Date.parse(ropes.start)
    expect(chosenIn(hand)?.start).toBe(next)
    refuse()
    await act(() => answered)
    expect(chosenIn(hand)?.start).toBe(next)
  })

  it('is not taken from the hand by what was deleted before', async () => {
    let answer = () => {}
    serve({
      'DELETE /api/entries/': () =>
        new Promise((done) => {
          answer = () => done(json({ changeId: crypto.randomUUID() }))
        }),
    })
    const hand = inHand()
    act(() => hand.current.step(1))
    act(() => hand.current.removeChosen())
    act(() => hand.current.step(1))
    answer()
    await waitFor(() => expect(document.body.textContent).toContain('Tent airing is deleted'))
    expect(chosenIn(hand)?.start).toBe(Date.parse(ropes.start))
  })

  it('has its lane focused as soon as that is drawn', () => {
    const hand = renderHook(() => useHand(week, undefined), { wrapper: Inside })
    act(() => hand.result.current.step(1))
    const lane = document.createElement('div')
    lane.innerHTML = `<div data-row="${today}"><div role="gridcell" tabindex="0"></div></div>`
    document.body.append(lane)
    hand.rerender()
    expect(document.activeElement).toBe(lane.querySelector('[role=gridcell]'))
    lane.remove()
  })
})
