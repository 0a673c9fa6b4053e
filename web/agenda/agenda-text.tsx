import { type Agenda, sumInWords } from '@marmot/core/agenda'

/** An agenda as it reads: its points with who and how long, the sum beside the meeting, and the notes. */
export const AgendaText = ({ agenda: { items, notes }, length }: { agenda: Agenda; length: number }) => {
  const sum = sumInWords(items, length)
  return (
    <div className="flex flex-col gap-1">
      {items.length > 0 && (
        <ol className="flex flex-col">
          {items.map((item, i) => (
            <li key={item.id} className="grid grid-cols-[1.5em_1fr_auto] gap-x-1 border-line border-t py-0.5">
              <span className="text-soft tabular-nums">{i + 1}.</span>
              <span className="min-w-0 break-words">
                {item.title || '(no title)'}
                {item.who && <span className="text-soft"> {item.who}</span>}
              </span>
              <span className="text-soft tabular-nums">{item.minutes ? `${item.minutes} min` : ''}</span>
            </li>
          ))}
        </ol>
      )}
      {sum && <p className="text-soft text-sm">{sum}</p>}
      {notes && <p className="whitespace-pre-wrap break-words">{notes}</p>}
    </div>
  )
}
