import sanitize from 'sanitize-html'

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
    ],
    allowedAttributes: { a: ['href', 'rel', 'target'] },
    allowedSchemes: ['http', 'https', 'mailto', 'tel'],
    transformTags: { a: sanitize.simpleTransform('a', { rel: 'noopener noreferrer', target: '_blank' }) },
  }).trim()
  // An editor that was opened and left empty.
  return clean === '<p></p>' ? '' : clean
}
