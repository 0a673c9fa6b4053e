import { Ellipsis } from 'lucide-react'
import { Button, Choice } from '../ui/parts.tsx'
import { ClosesPopping, Popping } from '../ui/popping.tsx'
import { useBrief } from './brief.tsx'
import { DayByDay, Unknown } from './cards.tsx'
import { HoldButton } from './hold-button.tsx'
import { KeepTemplate } from './templates.tsx'
import type { Arranging } from './use-arranging.ts'
import type { HoldInHand } from './use-hold.ts'
import { type Jumps, passedOver } from './use-jumps.ts'

/** What can be done beside sending. */
export interface MoreActions {
  /** Asks which times suit; left out where there is one time alone to be had. */
  readonly onAsk: (() => void) | undefined
  readonly onRepeat: () => void
  readonly onCompare: () => void
  readonly onJump: (way: 1 | -1, by?: 'opening' | 'day') => void
  readonly jumps: Jumps
  readonly onJumps: (jumps: Jumps) => void
  readonly hold: HoldInHand
}

/** How one goes from time to time, and what is passed over on the way. */
const Passing = ({
  arranging,
  jumps,
  onJumps,
}: Pick<MoreActions, 'jumps' | 'onJumps'> & { arranging: Arranging }) => {
  const { optional, places } = passedOver(arranging.found.openings)
  const left = (count: number) => (count === 1 ? '1 time is passed over' : `${count} times are passed over`)
  return (
    <fieldset className="border-line border-t pt-2 text-sm">
      <legend className="sr-only">Going from time to time</legend>
      <p className="text-soft">n and p go to the next and the previous time, d and b to another day.</p>
      <Choice checked={jumps.optional} onChoose={(next) => onJumps({ ...jumps, optional: next })}>
        only when everybody optional can come, too{jumps.optional && `: ${left(optional)}`}
      </Choice>
      <Choice checked={jumps.places} onChoose={(next) => onJumps({ ...jumps, places: next })}>
        only when the places can be had{jumps.places && `: ${left(places)}`}
      </Choice>
    </fieldset>
  )
}

/** What is needed less often than sending. */
export const More = ({
  arranging,
  onAsk,
  onRepeat,
  onCompare,
  jumps,
  onJumps,
  hold,
}: { arranging: Arranging } & MoreActions) => {
  const { brief, clear, untouched } = useBrief()
  const { alone, found } = arranging
  if (untouched) return null
  return (
    <Popping
      label="More"
      align="end"
      className="flex max-h-[70dvh] w-[400px] flex-col gap-2 overflow-y-auto p-3"
      trigger={
        <Button aria-label="More for this meeting" className="shrink-0 rounded-full!">
          <Ellipsis size={16} aria-hidden /> More
        </Button>
      }
    >
      <div className="flex flex-wrap gap-1.5">
        {onAsk && (
          <ClosesPopping>
            <Button onClick={onAsk} title="Key: a">
              Ask which times suit…
            </Button>
          </ClosesPopping>
        )}
        {!alone && !brief.meeting && (
          <ClosesPopping>
            <Button onClick={onRepeat} title="Key: r">
              Make it repeat…
            </Button>
          </ClosesPopping>
        )}
        {!brief.meeting && <HoldButton arranging={arranging} hold={hold} />}
        {!alone && found.openings.length > 0 && (
          <ClosesPopping>
            <Button onClick={onCompare} title="Key: c">
              Compare side by side
            </Button>
          </ClosesPopping>
        )}
      </div>
      {!alone && found.openings.length > 0 && (
        <Passing arranging={arranging} jumps={jumps} onJumps={onJumps} />
      )}
      <Unknown arranging={arranging} onAsk={onAsk} />
      <DayByDay arranging={arranging} />
      {!brief.meeting && (
        <div className="flex justify-between border-line border-t pt-2 text-sm">
          {alone ? <span /> : <KeepTemplate />}
          <ClosesPopping>
            <button
              type="button"
              className="min-h-7 rounded px-1 underline underline-offset-2 max-md:min-h-thumb"
              onClick={clear}
            >
              Begin anew
            </button>
          </ClosesPopping>
        </div>
      )}
    </Popping>
  )
}
