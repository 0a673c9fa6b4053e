import { EditorContent, useEditor } from '@tiptap/react'
import StarterKit from '@tiptap/starter-kit'
import { picture } from '../ui/picture.ts'
import { KEPT_PICTURES } from './note-pictures.ts'

const EXTENSIONS = [
  StarterKit.configure({ heading: false, horizontalRule: false, link: { openOnClick: true } }),
  picture(KEPT_PICTURES.addressOf),
]

/** A description with its lists, links and pictures, to be read: of its HTML only what the editor knows is drawn. */
export const NoteView = ({ note }: { note: string }) => {
  const editor = useEditor(
    {
      extensions: EXTENSIONS,
      content: note,
      editable: false,
      editorProps: {
        attributes: { class: 'note outline-none', role: 'document', 'aria-label': 'Description' },
      },
    },
    [note],
  )
  return editor && <EditorContent editor={editor} />
}
