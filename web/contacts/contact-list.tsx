import { type CardsDone, exportContacts, type ListedContact } from '@marmot/contract/contacts'
import { shortTime } from '@marmot/core/time'
import { Download, Plus, Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { type ListColumn, ListTable } from '../lists/list-table.tsx'
import { problemWords } from '../platform/problem.ts'
import { useMe } from '../platform/session.tsx'
import { toast } from '../platform/toast.ts'
import { Button, counted, Empty, Loading, Trouble } from '../ui/parts.tsx'
import { useContactInAddress, useContacts, useContactWrites } from './contacts.ts'

const MADE_BY: Record<ListedContact['madeBy'], string> = {
  invitation: 'from an invitation',
  hand: 'by hand',
  file: 'from a file',
}

/** A file of contacts, looked at before it is taken. */
const FileLook = ({
  name,
  file,
  done,
  onClose,
}: {
  name: string
  file: Blob
  done: CardsDone
  onClose: () => void
}) => {
  const writes = useContactWrites()
  const [busy, setBusy] = useState(false)
  const take = async () => {
    setBusy(true)
    try {
      const { made, changed } = await writes.file(file, true)
      toast(`${counted(made, 'new contact', 'new contacts')}, ${changed} changed`)
      onClose()
    } catch (error) {
      toast.error(problemWords(error))
      setBusy(false)
    }
  }
  const nothing = done.made + done.changed === 0
  return (
    <div role="status" className="mb-3 flex flex-col gap-2 rounded-lg bg-paper p-4">
      <p>
        <b className="font-semibold">{name}</b>: {counted(done.made, 'new contact', 'new contacts')},{' '}
        {done.changed} changed, {done.same} as they are here already.
      </p>
      {done.samples.length > 0 && (
        <p className="text-soft text-sm">
          {done.samples.map((one) => `${one.name} (${one.change === 'made' ? 'new' : 'changed'})`).join(', ')}
          {done.made + done.changed > done.samples.length ? ', …' : ''}
        </p>
      )}
      {done.refused.length > 0 && (
        <details className="text-sm" open={done.refused.length < 8}>
          <summary className="cursor-pointer text-coral">⚠ What is not taken, and why</summary>
          <ul className="mt-1 max-h-52 overflow-y-auto">
            {done.refused.map((one) => (
              <li key={`${one.line} ${one.title} ${one.reason}`}>
                {one.line > 0 && `line ${one.line}: `}
                {one.title && <b className="font-semibold">{one.title}: </b>}
                {one.reason}
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>{nothing ? 'Close' : 'Leave it'}</Button>
        {!nothing && (
          <Button tone="primary" disabled={busy} onClick={take}>
            {busy ? 'Taking in…' : `Take in ${counted(done.made + done.changed, 'contact', 'contacts')}`}
          </Button>
        )}
      </div>
    </div>
  )
}

/** The people outside with whom one has to do. */
export const ContactList = () => {
  const { zone } = useMe()
  const contacts = useContacts()
  const writes = useContactWrites()
  const { show } = useContactInAddress()
  const picker = useRef<HTMLInputElement>(null)
  const [looked, setLooked] = useState<{ name: string; file: Blob; done: CardsDone } | null>(null)
  const [busy, setBusy] = useState(false)
  const look = async (file: File) => {
    setBusy(true)
    try {
      setLooked({ name: file.name, file, done: await writes.file(file, false) })
    } catch (error) {
      toast.error(problemWords(error))
    }
    setBusy(false)
  }
  if (contacts.isPending) return <Loading what="your contacts" />
  if (contacts.isError)
    return (
      <Trouble action={<Button onClick={() => contacts.refetch()}>Try again</Button>}>
        {problemWords(contacts.error)}
      </Trouble>
    )
  const columns: ListColumn<ListedContact>[] = [
    {
      id: 'name',
      head: 'Name',
      value: (one) => one.name,
      cell: (one) => (
        <button
          type="button"
          onClick={() => show(one.id)}
          className="text-left font-semibold hover:underline max-md:min-h-thumb"
        >
          {one.name}
        </button>
      ),
    },
    {
      id: 'organisation',
      head: 'Organisation',
      value: (one) => one.organisation,
      group: (one) => one.organisation,
      wide: true,
    },
    { id: 'address', head: 'Address', value: (one) => one.addresses.join(', ') },
    { id: 'telephone', head: 'Telephone', value: (one) => one.telephone, wide: true },
    {
      id: 'last',
      head: 'Last arranged',
      value: (one) => one.lastAt ?? '',
      cell: (one) => (one.lastAt ? shortTime(Date.parse(one.lastAt), zone) : ''),
      wide: true,
    },
    {
      id: 'made',
      head: 'Came',
      value: (one) => MADE_BY[one.madeBy],
      group: (one) => MADE_BY[one.madeBy],
      wide: true,
    },
  ]
  return (
    <>
      {looked && <FileLook {...looked} onClose={() => setLooked(null)} />}
      <ListTable
        label="Contacts"
        one="contact"
        many="contacts"
        columns={columns}
        rows={contacts.data.contacts}
        keyOf={(one) => one.id}
        sortedBy="name"
        csvName="contacts.csv"
        empty={
          <Empty>
            Nobody yet. Whoever you invite from outside stands here by themselves; you can add somebody by
            hand, or bring in a file.
          </Empty>
        }
        tools={
          <>
            <input
              ref={picker}
              type="file"
              accept=".vcf,text/vcard"
              className="sr-only"
              aria-label="A file of contacts"
              tabIndex={-1}
              onChange={(event) => {
                const [file] = event.target.files ?? []
                event.target.value = ''
                if (file) void look(file)
              }}
            />
            <Button className="max-md:min-h-thumb" disabled={busy} onClick={() => picker.current?.click()}>
              <Upload size={15} aria-hidden /> {busy ? 'Reading…' : 'Import…'}
            </Button>
            <a
              href={exportContacts.path}
              download
              className="inline-flex min-h-8 items-center gap-1.5 rounded-md border border-soft/50 bg-paper px-3 py-1 hover:bg-shade max-md:min-h-thumb"
            >
              <Download size={15} aria-hidden /> Export as vCard
            </a>
            <Button tone="primary" className="max-md:min-h-thumb" onClick={() => show('new')}>
              <Plus size={16} aria-hidden /> New contact
            </Button>
          </>
        }
      />
    </>
  )
}
