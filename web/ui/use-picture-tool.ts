import type { Editor } from '@tiptap/core'
import { usePickFiles } from './pick-files.tsx'
import { PICTURE_TYPES, type Pictures } from './pictures.ts'

/** Lets somebody put pictures into formatted text, where they write; `onTrouble` says what could not be put in. */
export const usePictureTool = (
  editor: Editor | null,
  pictures: Pictures,
  onTrouble: (error: unknown) => void,
) =>
  usePickFiles({
    label: 'Choose pictures',
    accept: PICTURE_TYPES,
    onPick: async (files) => {
      for (const file of files)
        try {
          const { id, name } = await pictures.add(file)
          editor
            ?.chain()
            .focus()
            .insertContent({ type: 'picture', attrs: { file: id, name } })
            .run()
        } catch (error) {
          onTrouble(error)
        }
    },
  })
