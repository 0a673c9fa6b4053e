import { type CheckedTime, checkTime, isTimeProblem } from '@marmot/core/entries'
import { ProblemError } from '../platform/problems.ts'

/** A checked time, or the problem with it, naming the field. */
export const timeOrProblem = (given: {
  starts: string
  minutes: number
  zone: string
  allDay?: boolean
}): CheckedTime => {
  const checked = checkTime(given.starts, given.minutes, given.zone, given.allDay)
  if (isTimeProblem(checked))
    throw new ProblemError(422, checked.code, checked.message, {
      fields: [{ path: checked.field, message: checked.message }],
    })
  return checked
}
