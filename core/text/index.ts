/**
 * Text without what could be taken for something else where it goes: control characters, line and paragraph separators,
 * halves of a character. A bare CR in a title would be a line of its own in a letter's calendar part (RFC 5545 section
 * 3.3.11 allows none).
 */

const CONTROLS = /[\p{Cc}\u2028\u2029]+/gu
const CONTROLS_WITHIN_LINES = /[^\P{Cc}\n\t]/gu
const HALVES = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g

/** Text as one line: each run of control characters becomes a space. */
export const oneLine = (text: string): string => text.replace(CONTROLS, ' ').replace(HALVES, '\uFFFD')

/** Text that may have lines: line feeds and tabs stay, every other control character goes. */
export const manyLines = (text: string): string =>
  text
    .replace(/\r\n?|[\u2028\u2029]/g, '\n')
    .replace(CONTROLS_WITHIN_LINES, '')
    .replace(HALVES, '\uFFFD')

/** True when a text has a NUL or half a character: PostgreSQL keeps neither, and nobody types them. */
export const isBroken = (text: string): boolean => text.includes('\0') || text.replace(HALVES, '') !== text
