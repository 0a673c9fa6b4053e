const REMINDERS: readonly { value: number; words: string }[] = [
  { value: 0, words: 'when it begins' },
  { value: 5, words: '5 minutes before' },
  { value: 10, words: '10 minutes before' },
  { value: 30, words: 'half an hour before' },
  { value: 60, words: 'an hour before' },
  { value: 1440, words: 'a day before' },
  { value: 10_080, words: 'a week before' },
]

/** When one is reminded, in a sentence; null is as usual. */
export const remindersInWords = (value: readonly number[] | null): string => {
  if (value === null) return 'You are reminded as usual.'
  const words = value.map(
    (each) => REMINDERS.find((one) => one.value === each)?.words ?? `${each} minutes before`,
  )
  return words.length ? `You are reminded ${words.join(', ')}.` : 'You are not reminded.'
}

/** Several reminders, none, or as usual. */
export const RemindersField = ({
  value,
  usual,
  onChange,
}: {
  value: readonly number[] | null
  usual: boolean
  onChange: (value: number[] | null) => void
}) => (
  <div className="flex flex-col gap-1">
    <span className="text-soft text-sm">Reminders</span>
    <div className="flex flex-wrap gap-x-3 text-sm [&>label]:min-h-[26px]">
      {usual && (
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={value === null}
            onChange={(event) => onChange(event.target.checked ? null : [])}
          />
          as usual
        </label>
      )}
      {value !== null &&
        REMINDERS.map((each) => (
          <label key={each.value} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={value.includes(each.value)}
              onChange={(event) =>
                onChange(
                  event.target.checked
                    ? [...value, each.value].sort((a, b) => a - b).slice(0, 5)
                    : value.filter((minutes) => minutes !== each.value),
                )
              }
            />
            {each.words}
          </label>
        ))}
      {value?.length === 0 && <span className="text-soft">none</span>}
    </div>
  </div>
)
