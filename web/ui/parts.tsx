import { TriangleAlert } from 'lucide-react'
import { type ButtonHTMLAttributes, type ReactNode, type Ref, useId } from 'react'

type Tone = 'primary' | 'plain' | 'quiet' | 'trouble'

const TONES: Record<Tone, string> = {
  primary: 'bg-gentian text-gentian-ink hover:brightness-110 font-semibold',
  plain: 'border border-soft/50 bg-paper hover:bg-shade',
  quiet: 'hover:bg-shade',
  trouble: 'border border-coral text-coral hover:bg-coral/10',
}

/** A button; `primary` is the one next step of a screen. */
export const Button = ({
  tone = 'plain',
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { tone?: Tone; ref?: Ref<HTMLButtonElement> }) => (
  <button
    type="button"
    className={`inline-flex min-h-8 items-center justify-center gap-1.5 rounded-md px-3 py-1 disabled:cursor-not-allowed disabled:opacity-55 ${TONES[tone]} ${className}`}
    {...rest}
  />
)

/** A labelled field with its complaint, tied together for a screen reader. */
export const Field = ({
  label,
  error,
  hint,
  children,
}: {
  label: string
  error?: string | undefined
  hint?: ReactNode
  children: (props: {
    id: string
    'aria-invalid'?: true
    'aria-describedby'?: string
    className: string
  }) => ReactNode
}) => {
  const id = useId()
  const note = error ?? hint
  return (
    <div className="flex flex-col gap-0.5">
      <label htmlFor={id} className="text-soft text-sm">
        {label}
      </label>
      {children({
        id,
        ...(error ? { 'aria-invalid': true } : {}),
        ...(note ? { 'aria-describedby': `${id}-note` } : {}),
        className: `min-h-[36px] w-full rounded-md border bg-paper px-2.5 py-1.5 ${error ? 'border-coral' : 'border-soft/50'}`,
      })}
      {note && (
        <p id={`${id}-note`} className={`text-sm ${error ? 'text-coral' : 'text-soft'}`}>
          {error ? `⚠ ${error}` : note}
        </p>
      )}
    </div>
  )
}

/** Something that is so or not, with its words beside it. */
export const Choice = ({
  checked,
  disabled = false,
  onChoose,
  children,
}: {
  checked: boolean
  disabled?: boolean
  onChoose: (checked: boolean) => void
  children: ReactNode
}) => (
  <label className="flex min-h-8 items-center gap-2 max-md:min-h-thumb">
    <input
      type="checkbox"
      className="accent-gentian"
      disabled={disabled}
      checked={checked}
      onChange={(event) => onChoose(event.target.checked)}
    />
    {children}
  </label>
)

/** Trouble, always with a sign and words, and what can be done. */
export const Trouble = ({ children, action }: { children: ReactNode; action?: ReactNode }) => (
  <div role="alert" className="flex items-start gap-2 rounded-md border border-coral/60 bg-coral/8 px-3 py-2">
    <TriangleAlert size={17} className="mt-0.5 shrink-0 text-coral" aria-hidden />
    <div className="flex-1">
      {children}
      {action && <div className="mt-2 flex flex-wrap gap-2">{action}</div>}
    </div>
  </div>
)

/** What a list says when there is nothing in it. */
export const Empty = ({ children }: { children: ReactNode }) => <p className="py-2 text-soft">{children}</p>

/** A quiet sign that something is on its way; it keeps its place so that nothing jumps. */
export const Loading = ({ what }: { what: string }) => (
  <p role="status" className="animate-pulse py-2 text-soft">
    Fetching {what}…
  </p>
)

/** A person's or category's colour: one of ten muted mountain-flower tones; only ever a dot or an edge. */
const FLOWERS = [
  '#7a5c9e',
  '#b0567a',
  '#3f7f8c',
  '#a8722a',
  '#5b7f3a',
  '#8c4f4a',
  '#4d6aa8',
  '#94703f',
  '#2f7d62',
  '#87558f',
]

/** One of the ten tones by its number; nothing without a number. */
export const flower = (tone: number | null | undefined): string | undefined =>
  tone === null || tone === undefined ? undefined : FLOWERS[tone]

export const TONES_COUNT = FLOWERS.length

/** A tone for each of several people: their own, and as long as there are enough nobody has that of another. */
export const tonesOf = (ids: readonly string[]): Map<string, string> => {
  const taken = new Set<number>()
  return new Map(
    ids.map((id) => {
      let tone = toneOf(id)
      for (let tries = 0; taken.has(tone) && tries < FLOWERS.length; tries++)
        tone = (tone + 1) % FLOWERS.length
      taken.add(tone)
      return [id, FLOWERS[tone] ?? 'var(--soft)']
    }),
  )
}

/** A number of a tone that is the same for the same id everywhere. */
const toneOf = (id: string): number => {
  let sum = 0
  for (const sign of id) sum = (sum * 31 + sign.charCodeAt(0)) >>> 0
  return sum % FLOWERS.length
}

/** Somebody's tone, the same for the same name everywhere. */
export const flowerOf = (id: string): string => FLOWERS[toneOf(id)] ?? 'var(--soft)'

/** A number with its word: "1 entry", "3 entries". */
export const counted = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`
