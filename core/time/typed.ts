/** A clock as it is typed: "10:45", "2 pm". */
export const CLOCK_TYPED = String.raw`\d{1,2}[:.]\d{2}\s?(?:am|pm)?|\d{1,2}\s?(?:am|pm)`
/** A length as it is typed: "45m", "1h 30m", "5 days". */
export const LENGTH_TYPED = String.raw`\d+(?:\.\d+)?\s?(?:days?|d)|\d+(?:\.\d+)?\s?(?:hours?|h)(?:\s?\d{1,2}(?:\s?(?:minutes?|min|m))?)?|\d+\s?(?:minutes?|min|m)`
export const WEEKDAY_TYPED =
  'mon(?:day)?|tue(?:sday)?|wed(?:nesday)?|thu(?:rsday)?|fri(?:day)?|sat(?:urday)?|sun(?:day)?'
const MONTH =
  'jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sep(?:tember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?'
/** A date as it is typed: "3 dec", "next tue", "2026-12-03". */
export const DATE_TYPED = String.raw`\d{4}-\d{1,2}-\d{1,2}|\d{1,2}\.?\s(?:${MONTH})(?:\s\d{4})?|(?:${MONTH})\s\d{1,2}(?:,?\s\d{4})?|today|tomorrow|(?:next\s)?(?:${WEEKDAY_TYPED})`

/** Takes patterns out of a line that is being read: what each caught, or null; and what is left. */
export const lineReader = (text: string) => {
  let rest = ` ${text.replace(/\s+/g, ' ').trim()} `
  return {
    take: (pattern: string): string[] | null => {
      const found = new RegExp(pattern, 'i').exec(rest)
      if (!found) return null
      rest = `${rest.slice(0, found.index)} ${rest.slice(found.index + found[0].length)}`
      return found.slice(1).map((part) => part ?? '')
    },
    left: () => rest,
  }
}
