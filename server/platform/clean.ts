import { MOST_NOTE } from '@marmot/core/entries'
import sanitize from 'sanitize-html'
import { ProblemError } from './problems.ts'

const FILE = /^[\da-f]{8}-(?:[\da-f]{4}-){3}[\da-f]{12}$/

/** Formatted text as it may be kept: a few tags, links that lead out safely, and nothing that runs. */
export const cleanNote = (html: string): string => {
  const clean = sanitize(html, {
    allowedTags: [
      'p',
      'br',
      'b',
      'strong',
      'i',
      'em',
      'u',
      's',
      'ul',
      'ol',
      'li',
      'a',
      'blockquote',
      'code',
      'pre',
      'h3',
      'img',
    ],
    // A picture is a file of ours by its id, which each reader's browser finds by itself: none leads anywhere else.
    allowedAttributes: { a: ['href', 'rel', 'target'], img: ['data-file', 'alt'] },
    exclusiveFilter: ({ tag, attribs }) => tag === 'img' && !FILE.test(attribs['data-file'] ?? ''),
    allowedSchemes: ['http', 'https', 'mailto', 'tel'],
    transformTags: { a: sanitize.simpleTransform('a', { rel: 'noopener noreferrer', target: '_blank' }) },
  }).trim()
  // An editor that was opened and left empty.
  return clean === '<p></p>' ? '' : clean
}

/** Formatted text, cleaned. Cleaning makes links longer, and what is kept must be what can be sent again. */
export const noteOrProblem = (html: string): string => {
  const note = cleanNote(html)
  if (note.length > MOST_NOTE)
    throw new ProblemError(422, 'note-too-long', 'The description is too long. Nothing was changed.', {
      fields: [{ path: 'note', message: 'is too long' }],
    })
  return note
}
