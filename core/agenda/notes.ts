import * as Y from 'yjs'
import { manyLines } from '../text/index.ts'

/** Notes are read no deeper and no longer than this: whoever takes part can send a document of any shape. */
const MOST_DEEP = 20
const MOST_CHARACTERS = 50_000

/** A stretch of text with the address that it links to, if it does. */
const linked = ({
  insert,
  attributes,
}: {
  insert?: unknown
  attributes?: Record<string, unknown>
}): string => {
  if (typeof insert !== 'string') return ''
  const link = attributes?.link
  const href = link !== null && typeof link === 'object' && 'href' in link ? String(link.href) : ''
  return href && href !== insert ? `${insert} (${href})` : insert
}

const inline = (node: Y.XmlElement): string =>
  node
    .toArray()
    .map((child) =>
      child instanceof Y.XmlText
        ? child.toDelta().map(linked).join('')
        : child instanceof Y.XmlElement
          ? '\n'
          : '',
    )
    .join('')

/** The lines that a block of notes reads as. */
const linesOf = (node: unknown, deep: number): string[] => {
  if (!(node instanceof Y.XmlElement) || deep > MOST_DEEP) return []
  const inside = () => node.toArray().flatMap((child) => linesOf(child, deep + 1))
  switch (node.nodeName) {
    case 'bulletList':
    case 'orderedList':
      return node.toArray().flatMap((item, i) =>
        item instanceof Y.XmlElement
          ? item
              .toArray()
              .flatMap((child) => linesOf(child, deep + 2))
              .map((line, j) =>
                j > 0 ? `  ${line}` : `${node.nodeName === 'orderedList' ? `${i + 1}.` : '–'} ${line}`,
              )
          : [],
      )
    case 'tableRow':
      return [
        node
          .toArray()
          .map((cell) =>
            cell instanceof Y.XmlElement
              ? cell
                  .toArray()
                  .flatMap((child) => linesOf(child, deep + 2))
                  .join(' ')
              : '',
          )
          .join(' | '),
      ]
    case 'table':
    case 'blockquote':
      return inside()
    case 'picture':
      return [`[picture: ${String(node.getAttribute('name') ?? '')}]`]
    default:
      return [inline(node)]
  }
}

/** Lines as text that can be kept and sent: without control characters. */
const fit = (lines: readonly string[]): string => manyLines(lines.join('\n')).trim()

/** The notes of an agenda as plain text: a line for each paragraph, point of a list and row of a table. */
export const notesText = (notes: Y.XmlFragment): string => {
  const lines: string[] = []
  let characters = 0
  for (const node of notes.toArray()) {
    for (const line of linesOf(node, 0)) {
      characters += line.length + 1
      if (characters > MOST_CHARACTERS) return fit(lines)
      lines.push(line)
    }
  }
  return fit(lines)
}
