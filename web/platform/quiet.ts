/** A page is quiet when nobody pressed, typed or scrolled for so long, in milliseconds. */
const QUIET_MS = 1500
/** Whoever never rests is not waited for longer than this. */
const LONGEST_MS = 30_000

const DOINGS = ['pointerdown', 'keydown', 'input', 'scroll'] as const

/**
 * Calls `run` once, when the page has been quiet for 1.5 s, and after 30 s in any case: for what takes the thread for a moment
 * and is not waited for, so that it does not stand in the way of a press. Gives what calls it off.
 */
export const whenQuiet = (run: () => void): (() => void) => {
  const latest = performance.now() + LONGEST_MS
  let timer: ReturnType<typeof setTimeout>
  const stop = () => {
    clearTimeout(timer)
    for (const doing of DOINGS) window.removeEventListener(doing, again, true)
  }
  const again = () => {
    clearTimeout(timer)
    const wait = Math.max(0, Math.min(QUIET_MS, latest - performance.now()))
    timer = setTimeout(() => {
      stop()
      run()
    }, wait)
  }
  for (const doing of DOINGS) window.addEventListener(doing, again, { capture: true, passive: true })
  again()
  return stop
}
