/**
 * Says how high what stands along the foot of the screen is (`--foot`), so that what comes by itself stands above it and not over
 * what one works on. A ref of it.
 */
export const asFoot = (element: HTMLElement | null): (() => void) | undefined => {
  if (!element || typeof ResizeObserver === 'undefined') return undefined
  const { style } = document.documentElement
  const observer = new ResizeObserver(() => style.setProperty('--foot', `${element.offsetHeight}px`))
  observer.observe(element)
  return () => {
    observer.disconnect()
    style.removeProperty('--foot')
  }
}
