import { NOTES } from '@marmot/core/agenda'
import Collaboration from '@tiptap/extension-collaboration'
import CollaborationCaret from '@tiptap/extension-collaboration-caret'
import { TableKit } from '@tiptap/extension-table'
import { EditorContent, useEditor, useEditorState } from '@tiptap/react'
import StarterKit from '@tiptap/starter-kit'
import {
  BetweenHorizontalStart,
  BetweenVerticalStart,
  Bold,
  ImagePlus,
  Italic,
  Link as LinkIcon,
  List,
  ListOrdered,
  Table as TableIcon,
  Trash2,
} from 'lucide-react'
import { type ReactNode, useMemo, useState } from 'react'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { flowerOf } from '../ui/parts.tsx'
import { picture } from '../ui/picture.ts'
import type { Pictures } from '../ui/pictures.ts'
import { usePictureTool } from '../ui/use-picture-tool.ts'
import type { Together } from './together.ts'

/** Where somebody else writes, with their name. */
const caret = (user: Record<string, unknown>): HTMLElement => {
  const name = typeof user.name === 'string' ? user.name : ''
  const mark = document.createElement('span')
  mark.className = 'caret'
  mark.style.setProperty('--tone', flowerOf(name))
  const label = document.createElement('span')
  label.className = 'caret-name'
  label.textContent = name
  mark.append(label)
  return mark
}

/** What was asked for just now is where one types. */
const focus = (field: HTMLElement | null) => field?.focus()

const TOOL = 'grid size-8 place-items-center rounded hover:bg-shade aria-pressed:bg-shade max-md:size-thumb'

/** The notes below the points of an agenda, written together. */
export const Notes = ({
  together: { document: shared, provider },
  pictures,
}: {
  together: Together
  pictures: Pictures
}) => {
  const [address, setAddress] = useState<string | null>(null)
  const { addressOf } = pictures
  const extensions = useMemo(
    () => [
      StarterKit.configure({
        heading: false,
        horizontalRule: false,
        undoRedo: false,
        link: { openOnClick: true, autolink: true, protocols: ['http', 'https', 'mailto'] },
      }),
      TableKit.configure({ table: { resizable: false } }),
      picture(addressOf),
      Collaboration.configure({ document: shared, field: NOTES }),
      CollaborationCaret.configure({ provider, user: {}, render: caret }),
    ],
    [shared, provider, addressOf],
  )
  const editor = useEditor({
    extensions,
    editorProps: {
      attributes: {
        'aria-label': 'Notes',
        role: 'textbox',
        'aria-multiline': 'true',
        class: 'note min-h-40 px-3 py-2 outline-none',
      },
    },
  })
  const state = useEditorState({
    editor,
    selector: ({ editor: current }) => ({
      bold: current?.isActive('bold') ?? false,
      italic: current?.isActive('italic') ?? false,
      list: current?.isActive('bulletList') ?? false,
      numbers: current?.isActive('orderedList') ?? false,
      link: current?.isActive('link') ?? false,
      table: current?.isActive('table') ?? false,
    }),
  })
  const picking = usePictureTool(editor, pictures, (error) => toast.error(problemWords(error)))
  if (!editor) return null
  const chain = () => editor.chain().focus()
  const tool = (label: string, on: boolean | null, run: () => void, icon: ReactNode) => (
    <button
      type="button"
      aria-label={label}
      title={label}
      {...(on === null ? {} : { 'aria-pressed': on })}
      onClick={run}
      className={TOOL}
    >
      {icon}
    </button>
  )
  const setLink = () => {
    const href = (address ?? '').trim()
    setAddress(null)
    if (!href) {
      chain().unsetLink().run()
      return
    }
    const whole = /^(https?:|mailto:)/i.test(href) ? href : `https://${href}`
    if (editor.state.selection.empty && !state?.link)
      chain()
        .insertContent({ type: 'text', text: href, marks: [{ type: 'link', attrs: { href: whole } }] })
        .run()
    else chain().extendMarkRange('link').setLink({ href: whole }).run()
  }
  return (
    <div className="rounded-md border border-soft/50 bg-paper focus-within:outline-2 focus-within:outline-gentian">
      <div className="flex flex-wrap gap-0.5 border-line border-b px-1 py-0.5">
        {tool('Bold', state?.bold ?? false, () => chain().toggleBold().run(), <Bold size={16} aria-hidden />)}
        {tool(
          'Italic',
          state?.italic ?? false,
          () => chain().toggleItalic().run(),
          <Italic size={16} aria-hidden />,
        )}
        {tool(
          'List',
          state?.list ?? false,
          () => chain().toggleBulletList().run(),
          <List size={16} aria-hidden />,
        )}
        {tool(
          'Numbered list',
          state?.numbers ?? false,
          () => chain().toggleOrderedList().run(),
          <ListOrdered size={16} aria-hidden />,
        )}
        {tool(
          'Link',
          state?.link ?? false,
          () => setAddress(String(editor.getAttributes('link').href ?? '')),
          <LinkIcon size={16} aria-hidden />,
        )}
        {tool('Picture', null, picking.pick, <ImagePlus size={16} aria-hidden />)}
        {tool(
          'Table',
          null,
          () => chain().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run(),
          <TableIcon size={16} aria-hidden />,
        )}
        {state?.table && (
          <>
            {tool(
              'Add a row',
              null,
              () => chain().addRowAfter().run(),
              <BetweenHorizontalStart size={16} aria-hidden />,
            )}
            {tool(
              'Add a column',
              null,
              () => chain().addColumnAfter().run(),
              <BetweenVerticalStart size={16} aria-hidden />,
            )}
            {tool(
              'Take the table out',
              null,
              () => chain().deleteTable().run(),
              <Trash2 size={16} aria-hidden />,
            )}
          </>
        )}
        {picking.field}
      </div>
      {address !== null && (
        <form
          className="flex gap-2 border-line border-b px-2 py-1.5"
          onSubmit={(event) => {
            event.preventDefault()
            setLink()
          }}
        >
          <input
            ref={focus}
            aria-label="Address of the link"
            value={address}
            placeholder="https://…"
            onChange={(event) => setAddress(event.target.value)}
            onKeyDown={(event) => event.key === 'Escape' && setAddress(null)}
            className="min-w-0 flex-1 rounded-md border border-soft/50 bg-paper px-2 py-1"
          />
          <button type="submit" className="rounded-md border border-soft/50 px-3 hover:bg-shade">
            {address.trim() ? 'Link' : 'No link'}
          </button>
        </form>
      )}
      <EditorContent editor={editor} />
    </div>
  )
}
