import { useState } from 'react'

const KEY = 'marmot-light'
export type Daylight = 'system' | 'day' | 'dusk'
const NEXT: Record<Daylight, Daylight> = { system: 'dusk', dusk: 'day', day: 'system' }

const isDaylight = (text: string | null): text is Daylight =>
  text === 'system' || text === 'day' || text === 'dusk'

const kept = (): Daylight => {
  const text = localStorage.getItem(KEY)
  return isDaylight(text) ? text : 'system'
}

/** Puts the kept choice of light into effect; called before anything is drawn. */
export const applyDaylight = (light: Daylight = kept()): void => {
  if (light === 'system') delete document.documentElement.dataset.light
  else document.documentElement.dataset.light = light
}

/** Day, dusk, or as the system says; kept for this browser. `turn` goes to the next of the three. */
export const useDaylight = (): { light: Daylight; turn: () => void } => {
  const [light, setLight] = useState(kept)
  const turn = () => {
    const next = NEXT[light]
    localStorage.setItem(KEY, next)
    applyDaylight(next)
    setLight(next)
  }
  return { light, turn }
}
