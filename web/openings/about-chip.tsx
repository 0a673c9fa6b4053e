import { Field } from '../ui/parts.tsx'
import { AgendaField } from './agenda-field.tsx'
import { useBrief } from './brief.tsx'
import { Chip } from './chips.tsx'
import type { Member } from './use-arranging.ts'

/** What the meeting is about: words that everybody gets with the invitation, and the points of its agenda. */
export const AboutChip = ({ members }: { members: readonly Member[] }) => {
  const { brief, change } = useBrief()
  const points = brief.agenda.split('\n').filter((line) => line.trim()).length
  const words = [
    brief.note.trim() ? 'text' : '',
    points ? `${points} ${points === 1 ? 'point' : 'points'}` : '',
  ].filter(Boolean)
  return (
    <Chip label="What it is about" words={words.length ? words.join(', ') : 'add text'} whole>
      <div className="flex flex-col gap-2">
        <Field label="Words to everybody (optional)">
          {(props) => (
            <textarea
              {...props}
              rows={3}
              maxLength={10_000}
              value={brief.note}
              onChange={(event) => change({ note: event.target.value })}
            />
          )}
        </Field>
        <AgendaField
          value={brief.agenda}
          minutes={brief.minutes}
          names={members.map((member) => member.name)}
          onChange={(agenda) => change({ agenda })}
        />
      </div>
    </Chip>
  )
}
