const ENTITIES: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'", nbsp: ' ' }

/** Plain text as a note's HTML: a blank line begins a paragraph, a line break stays one. */
export const noteOfText = (text: string): string =>
  text
    .trim()
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .split(/\n{2,}/)
    .filter(Boolean)
    .map((paragraph) => `<p>${paragraph.replace(/\n/g, '<br>')}</p>`)
    .join('')

/** A note's HTML as plain text, for letters and calendars: paragraphs apart, list items with a dash, pictures by their names. */
export const textOfNote = (html: string): string =>
  html
    .replace(/\s+/g, ' ')
    .replace(/<img[^>]*?alt="([^"]*)"[^>]*>/gi, '\n[picture: $1]\n')
    .replace(/<br ?\/?>/gi, '\n')
    .replace(/<li[^>]*>(?:\s*<p>)?/gi, '\n- ')
    .replace(/<\/(p|h[1-6]|ul|ol|blockquote|pre)>/gi, '\n\n')
    .replace(/<[^>]*>/g, '')
    .replace(/&(#\d+|#x[\da-f]+|\w+);/gi, (whole, name: string) => {
      if (name.startsWith('#x')) return String.fromCodePoint(Number.parseInt(name.slice(2), 16))
      if (name.startsWith('#')) return String.fromCodePoint(Number(name.slice(1)))
      return ENTITIES[name.toLowerCase()] ?? whole
    })
    .replace(/[ \t]*\n[ \t]*/g, '\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim()
