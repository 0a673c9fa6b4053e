import { WEEKDAYS } from '@marmot/core/time'

/** The weekdays over lanes of a week each. */
export const WeekdayRuler = ({ first }: { first: number }) => (
  <div className="ruler" aria-hidden>
    {WEEKDAYS.map((_, i) => {
      const name = WEEKDAYS[(first - 1 + i) % 7] ?? ''
      return (
        <span key={name} className="tick" style={{ left: `${(i / 7) * 100}%`, transform: 'none' }}>
          <b>
            {name.slice(0, 3)}
            <span className="max-md:hidden">{name.slice(3)}</span>
          </b>
        </span>
      )
    })}
  </div>
)
