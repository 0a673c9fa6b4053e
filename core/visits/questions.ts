/** How a question is answered. */
export const QUESTION_KINDS = ['text', 'choice', 'several', 'yes-no', 'number'] as const
export type QuestionKind = (typeof QUESTION_KINDS)[number]

/** What a visitor is asked beside a time. */
export interface Question {
  readonly id: string
  readonly kind: QuestionKind
  readonly words: string
  readonly required: boolean
  /** Of a choice, what can be chosen. */
  readonly options: readonly string[]
}

/** An answer as it is given: text, what was chosen, yes or no, a number. */
export type Answer = string | readonly string[] | boolean | number | null

/** The longest text that is taken for an answer. */
export const MOST_ANSWER = 2000

const isNothing = (answer: Answer | undefined): boolean =>
  answer === undefined || answer === null || answer === '' || (Array.isArray(answer) && answer.length === 0)

/** What is wrong with an answer, in words that follow the question; null where nothing is. */
export const answerTrouble = (question: Question, answer: Answer | undefined): string | null => {
  if (isNothing(answer)) return question.required ? 'is missing' : null
  switch (question.kind) {
    case 'text':
      if (typeof answer !== 'string') return 'is no text'
      return answer.length > MOST_ANSWER ? 'is too long' : null
    case 'choice':
      return typeof answer === 'string' && question.options.includes(answer) ? null : 'is none of the choices'
    case 'several':
      return Array.isArray(answer) && answer.every((one) => question.options.includes(one))
        ? null
        : 'is none of the choices'
    case 'yes-no':
      return typeof answer === 'boolean' ? null : 'is neither yes nor no'
    case 'number':
      return typeof answer === 'number' && Number.isFinite(answer) ? null : 'is no number'
  }
}

/** An answer in words. */
export const answerInWords = (answer: Answer | undefined): string => {
  if (isNothing(answer)) return ''
  if (typeof answer === 'boolean') return answer ? 'yes' : 'no'
  return Array.isArray(answer) ? answer.join(', ') : String(answer)
}

/** The answers as they stand in the invitation: a line for each question that was answered. */
export const answersInWords = (
  questions: readonly Question[],
  answers: Readonly<Record<string, Answer>>,
): string[] =>
  questions.flatMap((question) => {
    const words = answerInWords(answers[question.id])
    return words ? [`${question.words}${/[?!.:]$/.test(question.words) ? '' : ':'} ${words}`] : []
  })
