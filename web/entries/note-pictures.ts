import { MOST_FILE_BYTES } from '@marmot/contract/entries'
import { useEffect, useMemo, useRef } from 'react'
import { upload } from '../platform/api.ts'
import { ApiProblem, problemWords } from '../platform/problem.ts'
import { PICTURE_TYPES, type Pictures } from '../ui/pictures.ts'

const kept = (id: string): string => `/api/attachments/${id}`

/** Pictures of a description that is only read. */
export const KEPT_PICTURES: Pictures = {
  add: () => Promise.reject(new Error('Nothing is put into what is only read.')),
  addressOf: kept,
}

const unfit = (detail: string): ApiProblem =>
  new ApiProblem({
    type: 'urn:marmot:problem:bad-file',
    title: 'No picture',
    status: 422,
    code: 'bad-file',
    detail,
  })

/**
 * The pictures of a description while it is written. New ones wait in the browser, under ids of their own, until what they belong
 * to is kept; `attachTo` then sends those that the description still has, and gives what could not be attached, in words.
 */
export const useNotePictures = (): {
  readonly pictures: Pictures
  readonly attachTo: (entryId: string, note: string) => Promise<string[]>
} => {
  const waiting = useRef(new Map<string, { readonly file: File; readonly address: string }>())
  useEffect(() => {
    const all = waiting.current
    return () => {
      for (const { address } of all.values()) URL.revokeObjectURL(address)
    }
  }, [])
  return useMemo(
    () => ({
      pictures: {
        add: async (file) => {
          if (file.size > MOST_FILE_BYTES)
            throw unfit(`${file.name} is larger than 10 MB. It was not put in.`)
          if (!PICTURE_TYPES.split(',').includes(file.type))
            throw unfit(`${file.name} is no picture. It was not put in.`)
          const id = crypto.randomUUID()
          waiting.current.set(id, { file, address: URL.createObjectURL(file) })
          return { id, name: file.name }
        },
        addressOf: (id) => waiting.current.get(id)?.address ?? kept(id),
      },
      attachTo: async (entryId, note) => {
        const troubles: string[] = []
        for (const [id, { file }] of waiting.current)
          if (note.includes(`data-file="${id}"`))
            try {
              const query = new URLSearchParams({ name: file.name, id })
              await upload(`/api/entries/${entryId}/attachments?${query}`, file)
              waiting.current.delete(id)
            } catch (error) {
              troubles.push(problemWords(error))
            }
        return troubles
      },
    }),
    [],
  )
}
