/**
 * Work in steps of a few milliseconds: after each the caller may answer somebody else, or stop. A step that has nothing
 * new to show yields null.
 */
export type Steps<T> = Generator<null, T>

/** Work in steps, done at once, for a caller that waits. */
export const toEnd = <T>(steps: Generator<unknown, T>): T => {
  for (;;) {
    const { done, value } = steps.next()
    if (done) return value
  }
}
