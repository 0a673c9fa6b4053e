import { EditorContent, useEditor } from '@tiptap/react'
import StarterKit from '@tiptap/starter-kit'
import { Bold, ImagePlus, Italic, Link as LinkIcon, List, ListOrdered } from 'lucide-react'
import { type ReactNode, useMemo } from 'react'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { picture } from '../ui/picture.ts'
import type { Pictures } from '../ui/pictures.ts'
import { usePictureTool } from '../ui/use-picture-tool.ts'

/** What is kept of a picture is which file it is, and not where this browser has it. */
const noteOf = (html: string): string => html.replace(/ class="max-h-80 rounded"(?: src="[^"]*")?/g, '')

/** The formatted description of an entry. Fetched only when a sheet is open. */
export const NoteField = ({
  value,
  locked,
  label = 'Description',
  pictures,
  onChange,
}: {
  value: string
  locked: boolean
  label?: string
  pictures: Pictures
  onChange: (html: string) => void
}) => {
  const { addressOf } = pictures
  const extensions = useMemo(
    () => [StarterKit.configure({ heading: false, horizontalRule: false }), picture(addressOf)],
    [addressOf],
  )
  const editor = useEditor({
    extensions,
    content: value,
    editable: !locked,
    editorProps: {
      attributes: {
        'aria-label': label,
        role: 'textbox',
        'aria-multiline': 'true',
        class: 'note min-h-20 px-2.5 py-1.5 outline-none',
      },
    },
    onUpdate: ({ editor: changed }) => onChange(changed.isEmpty ? '' : noteOf(changed.getHTML())),
  })
  const picking = usePictureTool(editor, pictures, (error) => toast.error(problemWords(error)))
  if (!editor) return null
  const tool = (label: string, on: boolean, run: () => void, icon: ReactNode) => (
    <button
      type="button"
      aria-label={label}
      aria-pressed={on}
      title={label}
      onClick={run}
      className="grid size-7 place-items-center rounded hover:bg-shade aria-pressed:bg-shade"
    >
      {icon}
    </button>
  )
  const chain = () => editor.chain().focus()
  return (
    <div className="flex flex-col gap-0.5">
      <span className="text-soft text-sm">{label}</span>
      <div className="rounded-md border border-soft/50 bg-paper focus-within:outline-2 focus-within:outline-gentian">
        {!locked && (
          <div className="flex gap-0.5 border-line border-b px-1 py-0.5">
            {tool(
              'Bold',
              editor.isActive('bold'),
              () => chain().toggleBold().run(),
              <Bold size={15} aria-hidden />,
            )}
            {tool(
              'Italic',
              editor.isActive('italic'),
              () => chain().toggleItalic().run(),
              <Italic size={15} aria-hidden />,
            )}
            {tool(
              'List',
              editor.isActive('bulletList'),
              () => chain().toggleBulletList().run(),
              <List size={15} aria-hidden />,
            )}
            {tool(
              'Numbered list',
              editor.isActive('orderedList'),
              () => chain().toggleOrderedList().run(),
              <ListOrdered size={15} aria-hidden />,
            )}
            {tool(
              'Link',
              editor.isActive('link'),
              () => {
                if (editor.isActive('link')) chain().unsetLink().run()
                else {
                  const selected = editor.state.doc.textBetween(
                    editor.state.selection.from,
                    editor.state.selection.to,
                  )
                  if (/^https?:\/\//.test(selected)) chain().setLink({ href: selected }).run()
                }
              },
              <LinkIcon size={15} aria-hidden />,
            )}
            {tool('Picture', false, picking.pick, <ImagePlus size={15} aria-hidden />)}
            {picking.field}
          </div>
        )}
        <EditorContent editor={editor} />
      </div>
    </div>
  )
}
