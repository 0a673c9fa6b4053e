import { DAY, parseDay, wallText } from '@marmot/core/time'

/** "2026-12-03", as the address of My time has a day. */
export const dayAddress = (day: number): string => wallText(day * DAY).slice(0, 10)

/** The day that an address names; null where it names none. */
export const dayInAddress = (text: string | null): number | null =>
  text && /^\d{4}-\d\d-\d\d$/.test(text) ? parseDay(text, 0) : null
