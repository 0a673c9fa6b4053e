import { MARKS, type Mark } from '@marmot/core/polls'
import './polls.css'

/** What somebody says to a time, in words. */
export const MARK_WORDS: Record<Mark, string> = { yes: 'yes', 'if-need-be': 'if need be', no: 'no' }

/**
 * What somebody says to a time, drawn: how much is open says how well it suits. `supposed` where their calendar says so, not
 * they; `words` where nothing beside it says so.
 */
export const MarkGlyph = ({
  mark,
  supposed = false,
  words,
}: {
  mark: Mark | null
  supposed?: boolean
  words?: string
}) => (
  <span
    className="mark-glyph"
    data-mark={mark ?? 'none'}
    data-supposed={supposed || undefined}
    {...(words ? { role: 'img', 'aria-label': words } : { 'aria-hidden': true })}
  />
)

/** What the drawing means. */
export const Legend = () => (
  <p className="flex flex-wrap items-center gap-x-4 gap-y-1 px-4 text-soft text-sm">
    {([...MARKS, null] as const).map((mark) => (
      <span key={mark ?? 'none'} className="flex items-center gap-1.5">
        <MarkGlyph mark={mark} /> {mark ? MARK_WORDS[mark] : 'not yet'}
      </span>
    ))}
    <span className="flex items-center gap-1.5">
      <MarkGlyph mark="yes" supposed /> by their calendar, not marked yet
    </span>
  </p>
)
