import type { Answer } from '@marmot/core/sharing'

/** What was answered, in a list. */
export const ANSWER_WORDS: Record<Answer, string> = {
  accepted: 'yes',
  tentative: 'perhaps',
  declined: 'no',
  'needs-action': 'awaits an answer',
  delegated: 'passed on',
}
