import type { SeenSpan } from '@marmot/core/sharing'
import { clocksInWords, DAY, type Day, dayInWords, dayOf, toWall, zoneTable } from '@marmot/core/time'

const safe = (text: string): string => text.replace(/[&<>"']/g, (sign) => `&#${sign.charCodeAt(0)};`)

const STATE: Record<string, string> = {
  busy: 'busy',
  tentative: 'tentative',
  held: 'held',
  away: 'away',
  listed: 'listed',
}

/** How the page looks: as the reader's machine has it, by day, or at dusk. */
export type PageLook = 'auto' | 'day' | 'dusk'

const SCHEMES: Record<PageLook, string> = { auto: 'light dark', day: 'light', dusk: 'dark' }

const styleOf = (look: PageLook) => `:root{color-scheme:${SCHEMES[look]}}
body{margin:0;padding:14px 16px;font:15px/1.4 system-ui,sans-serif;background:light-dark(#f4f1ea,#1a2322);color:light-dark(#1e2b2a,#efeadf)}
h1{margin:0 0 8px;font-size:16px}h2{margin:12px 0 2px;font-size:14px;font-weight:600}
ul{margin:0;padding:0;list-style:none}li{display:flex;gap:10px;padding:2px 0}
time{flex:0 0 7.5em;font-variant-numeric:tabular-nums;color:light-dark(#505b59,#b4bdb8)}
.now{color:light-dark(#ad3f2b,#f2937f)}p{margin:4px 0;color:light-dark(#505b59,#b4bdb8)}`

/** What a page is of, and how it looks. */
interface Page {
  readonly name: string
  readonly zone: string
  readonly days: number
  readonly look: PageLook
  /** What stands above it; the owner's name and which days these are, where it is empty. */
  readonly heading: string
}

/** A small page of this day or of the next seven, for other sites' frames: what was chosen to be shown, and nothing that runs. */
export const nextPage = (owner: Page, spans: readonly SeenSpan[], now: number): string => {
  const table = zoneTable(owner.zone)
  const today = dayOf(toWall(table, now))
  const which = owner.days === 1 ? 'today' : 'the next seven days'
  const days = new Map<Day, SeenSpan[]>()
  for (const span of spans) {
    if (span.end <= now) continue
    const day = Math.max(today, dayOf(toWall(table, span.start)))
    days.set(day, [...(days.get(day) ?? []), span])
  }
  const line = (span: SeenSpan) => {
    const whole = span.end - span.start >= DAY - 3_600_000
    const when = whole ? 'all day' : clocksInWords(span.start, span.end, table).replace(' to ', '–')
    const what = span.title ?? STATE[span.state] ?? 'busy'
    const where = span.place ? ` · ${span.place}` : ''
    return `<li><time>${safe(when)}</time><span>${safe(what)}${safe(where)}</span></li>`
  }
  const parts = [...days]
    .sort(([a], [b]) => a - b)
    .map(
      ([day, list]) =>
        `<h2${day === today ? ' class="now"' : ''}>${day === today ? 'Today, ' : ''}${safe(dayInWords(day, today))}</h2><ul>${list.map(line).join('')}</ul>`,
    )
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>${safe(owner.name)}: what is next</title><style>${styleOf(owner.look)}</style></head><body>
<h1>${safe(owner.heading || `${owner.name}: ${which}`)}</h1>${parts.join('') || `<p>Nothing stands ${owner.days === 1 ? 'in the rest of this day' : 'in the next seven days'}.</p>`}
<p>Times are those of ${safe(owner.zone.split('/').at(-1)?.replace(/_/g, ' ') ?? owner.zone)}.</p></body></html>`
}
