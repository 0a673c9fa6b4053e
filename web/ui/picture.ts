import { Node } from '@tiptap/core'

import type { Pictures } from './pictures.ts'

/**
 * A picture in formatted text: a file by its id, so that nobody can have others' browsers fetch something from elsewhere, and
 * each reads it by the way that is theirs.
 */
export const picture = (addressOf: Pictures['addressOf']) =>
  Node.create({
    name: 'picture',
    group: 'block',
    draggable: true,
    addAttributes: () => ({
      file: { default: '', parseHTML: (element) => element.getAttribute('data-file') ?? '' },
      name: { default: '', parseHTML: (element) => element.getAttribute('alt') ?? '' },
    }),
    parseHTML: () => [{ tag: 'img[data-file]' }],
    renderHTML: ({ node }) => {
      const { file, name } = node.attrs
      const known = typeof file === 'string' && /^[\da-f-]{36}$/.test(file)
      return [
        'img',
        {
          'data-file': file,
          alt: String(name),
          class: 'max-h-80 rounded',
          ...(known ? { src: addressOf(file) } : {}),
        },
      ]
    },
  })
