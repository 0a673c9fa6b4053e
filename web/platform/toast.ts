import type { ExternalToast, toast as shower } from 'sonner'

type Shower = Pick<typeof shower, 'error' | 'success' | 'warning'> & typeof shower

/** So many messages wait at most for what shows them; of more the oldest go. */
const MOST = 20

let show: Shower | null = null
let waiting: ((to: Shower) => void)[] = []

const say = (one: (to: Shower) => void): void => {
  if (show) one(show)
  else waiting = [...waiting, one].slice(-MOST)
}

/**
 * Says something in passing. What shows messages is no part of the first screen: what is said before it has come waits
 * for it.
 */
export const toast = Object.assign(
  (words: string, how?: ExternalToast): void => say((to) => to(words, how)),
  {
    error: (words: string, how?: ExternalToast): void => say((to) => to.error(words, how)),
    success: (words: string, how?: ExternalToast): void => say((to) => to.success(words, how)),
    warning: (words: string, how?: ExternalToast): void => say((to) => to.warning(words, how)),
  },
)

/** What shows messages is on the screen: it shows those that waited, and all that come until the function it gives is called. */
export const shownBy = (shower: Shower): (() => void) => {
  show = shower
  const before = waiting
  waiting = []
  for (const one of before) one(shower)
  return () => {
    show = null
  }
}
