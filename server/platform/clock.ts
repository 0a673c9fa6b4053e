/** The time, in milliseconds. All of Marmot asks this one, so that `MARMOT_NOW` starts the clock elsewhere. */
export type Clock = () => number

/** A clock that runs on from `from` (ISO 8601), or the machine's own. */
export const startClock = (from: string | null): Clock => {
  if (from === null) return Date.now
  const ahead = Date.parse(from) - Date.now()
  return () => Date.now() + ahead
}
