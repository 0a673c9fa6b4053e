import { type Instant, MINUTE } from '../time/index.ts'

/** How one joins a meeting from afar: an address, or a telephone number and the code that it asks for. */
export interface Joining {
  readonly link: string
  readonly telephone: string
  readonly code: string
}

/** How long before a meeting one can join it, and how long after its end. */
const BEFORE = 10 * MINUTE
const AFTER = 30 * MINUTE

/** Whether a meeting can be joined: from ten minutes before until half an hour after, or for as long as somebody is there. */
export const canJoin = (
  { start, end }: { readonly start: Instant; readonly end: Instant },
  now: Instant,
  there = 0,
): boolean => now >= start - BEFORE && (now < end + AFTER || there > 0)

/** The address by which a telephone dials in and gives the code (RFC 3966; a comma is a pause). */
export const dialIn = ({ telephone, code }: Joining): string =>
  `tel:${telephone.replace(/[^+\d]/g, '')},,${code}`

/** What a telephone dials: a number, and the code after pauses where there is one. */
const DIALLED = /^tel:(\+?[\d().-]{3,30})(?:;[^,]*)?(?:,+(\d{1,20}))?(?:[#,].*)?$/

/** Longer is no address that anybody is given. In characters. */
const MOST_LINK = 2000

/**
 * How one joins a meeting by the addresses that another program gives for it (RFC 7986 section 5.11): the first that a
 * browser opens, and the first telephone number. Null where none of them is either.
 */
export const joiningBy = (addresses: readonly string[]): Joining | null => {
  const link = addresses.find((one) => one.length <= MOST_LINK && /^https?:/i.test(one) && URL.canParse(one))
  const [, telephone = '', code = ''] =
    addresses.map((one) => DIALLED.exec(one.replace(/\s/g, ''))).find((one) => one !== null) ?? []
  return link || telephone ? { link: link ?? '', telephone, code } : null
}

/** A code as it is read out: in threes. */
export const codeInWords = (code: string): string => code.replace(/(\d{3})(?=\d)/g, '$1 ')

/** Somebody's time in a meeting, from when until when; still there without an end. */
export interface Stay {
  /** Who they are: a participant by their id, else whoever gave a name. */
  readonly who: string
  readonly name: string
  readonly joined: Instant
  readonly left: Instant | null
}

/** How long somebody was in a meeting: since when, until when (null: still), and for how many whole seconds of it. */
export interface Attended {
  readonly who: string
  readonly name: string
  readonly from: Instant
  readonly until: Instant | null
  readonly seconds: number
}

/**
 * Who was in a meeting, first come first: what somebody came by twice at once counts once, and time between leaving and
 * coming back does not.
 */
export const attendedIn = (stays: readonly Stay[], now: Instant): Attended[] => {
  const byWho = new Map<string, Stay[]>()
  for (const stay of stays) byWho.set(stay.who, [...(byWho.get(stay.who) ?? []), stay])
  return [...byWho.values()]
    .flatMap((own): Attended[] => {
      const [first, ...rest] = [...own].sort((a, b) => a.joined - b.joined)
      if (!first) return []
      let ms = 0
      let [begin, end] = [first.joined, first.left ?? now]
      for (const { joined, left } of rest) {
        if (joined > end) {
          ms += end - begin
          begin = joined
        }
        end = Math.max(end, left ?? now)
      }
      ms += Math.max(0, end - begin)
      const there = own.some((one) => one.left === null)
      return [
        {
          who: first.who,
          name: first.name,
          from: first.joined,
          until: there ? null : Math.max(...own.map((one) => one.left ?? 0)),
          seconds: Math.round(ms / 1000),
        },
      ]
    })
    .sort((a, b) => a.from - b.from || (a.name < b.name ? -1 : 1))
}

/** So many seconds in words, to the second: "1 h 02 min 05 s". */
export const secondsInWords = (seconds: number): string => {
  const [h, min, s] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60]
  const two = (n: number) => String(n).padStart(2, '0')
  if (h > 0) return `${h} h ${two(min)} min ${two(s)} s`
  return min > 0 ? `${min} min ${two(s)} s` : `${s} s`
}
