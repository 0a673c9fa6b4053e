import type { Brief } from '@marmot/contract/briefs'
import { deleteTemplate, listTemplates, putTemplate, type Template } from '@marmot/contract/openings'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { useState } from 'react'
import { call } from '../platform/api.ts'
import { problemWords } from '../platform/problem.ts'
import { toast } from '../platform/toast.ts'
import { Button, Field } from '../ui/parts.tsx'
import { Popping } from '../ui/popping.tsx'
import { useBrief } from './brief.tsx'

const templatesKey = () => ['templates']

/** A kept brief as one for today: its window moved on, nothing chosen, nothing held. */
const fromToday = (kept: Brief, today: number): Brief => ({
  ...kept,
  fromDay: today,
  toDay: today + Math.max(1, kept.toDay - kept.fromDay),
  start: null,
  hold: null,
  meeting: null,
})

const useTemplates = () => {
  const queries = useQueryClient()
  const { brief, change } = useBrief()
  const list = useQuery({ queryKey: templatesKey(), queryFn: () => call(listTemplates), staleTime: 60_000 })
  const again = () => queries.invalidateQueries({ queryKey: templatesKey() })
  const put = (id: string, name: string, kept: Brief) =>
    call(putTemplate, {
      params: { templateId: id },
      body: { name, brief: { ...kept, start: null, hold: null, meeting: null } },
    })
  const told = (work: Promise<unknown>) =>
    work.then(again).catch((error) => {
      toast.error(problemWords(error))
    })
  return {
    templates: list.data?.templates ?? [],
    /** Puts a template into the brief in hand; another step back takes it out again. */
    take: (template: Template, today: number) => {
      change(fromToday(template.brief, today))
      told(put(template.id, template.name, template.brief))
    },
    keep: (name: string) => told(put(crypto.randomUUID(), name, brief)),
    forget: (template: Template) =>
      told(
        call(deleteTemplate, { params: { templateId: template.id } }).then(() =>
          toast(`Forgotten: ${template.name}`, {
            action: { label: 'Undo', onClick: () => told(put(template.id, template.name, template.brief)) },
          }),
        ),
      ),
  }
}

/** The briefs one has kept, offered while nothing is in hand yet. */
export const TemplateRow = ({ today }: { today: number }) => {
  const { templates, take, forget } = useTemplates()
  if (templates.length === 0) return null
  return (
    <fieldset aria-label="Templates" className="flex flex-wrap items-center gap-1.5 text-sm">
      <span className="text-soft">Or begin with a template:</span>
      {templates.map((template) => (
        <span
          key={template.id}
          className="flex items-center rounded-full border border-soft/50 hover:bg-shade"
        >
          <button
            type="button"
            className="min-h-[25px] rounded-l-full py-0.5 pr-1 pl-3"
            onClick={() => take(template, today)}
          >
            {template.name}
          </button>
          <button
            type="button"
            aria-label={`Forget ${template.name}`}
            className="grid size-[25px] place-items-center rounded-full text-soft hover:text-ink"
            onClick={() => forget(template)}
          >
            <X size={13} aria-hidden />
          </button>
        </span>
      ))}
    </fieldset>
  )
}

/** Keeps the brief in hand as a template, under a name. */
export const KeepTemplate = () => {
  const { brief } = useBrief()
  const { keep } = useTemplates()
  const [open, setOpen] = useState(false)
  const [name, setName] = useState('')
  return (
    <Popping
      label="Keep as a template"
      align="end"
      className="w-72 p-3"
      open={open}
      onOpenChange={(next) => {
        setOpen(next)
        setName(brief.title)
      }}
      trigger={
        <button
          type="button"
          className="min-h-[25px] whitespace-nowrap rounded px-1 underline underline-offset-2 hover:text-ink"
        >
          Keep as a template
        </button>
      }
    >
      <form
        className="flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          if (!name.trim()) return
          keep(name.trim()).then(() => toast.success(`Kept: ${name.trim()}`))
          setOpen(false)
        }}
      >
        <Field
          label="Name of the template"
          hint="People, rules, places and length are kept; the time is not."
        >
          {(props) => (
            <input
              {...props}
              value={name}
              maxLength={60}
              placeholder="Fortnightly station call"
              onChange={(event) => setName(event.target.value)}
            />
          )}
        </Field>
        <Button type="submit" disabled={!name.trim()}>
          Keep it
        </Button>
      </form>
    </Popping>
  )
}
