import { extname } from 'node:path'
import { fileTypeFromBuffer } from 'file-type'
import { ProblemError } from '../platform/problems.ts'

/** What may be attached, by what the bytes say, with the endings that go with it. */
const KINDS: Record<string, readonly string[]> = {
  'application/pdf': ['.pdf'],
  'image/png': ['.png'],
  'image/jpeg': ['.jpg', '.jpeg'],
  'image/gif': ['.gif'],
  'image/webp': ['.webp'],
  'image/tiff': ['.tif', '.tiff'],
  'application/zip': ['.zip'],
  'application/gzip': ['.gz', '.tgz'],
  'audio/mpeg': ['.mp3'],
  'video/mp4': ['.mp4'],
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document': ['.docx'],
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet': ['.xlsx'],
  'application/vnd.openxmlformats-officedocument.presentationml.presentation': ['.pptx'],
  'application/vnd.oasis.opendocument.text': ['.odt'],
  'application/vnd.oasis.opendocument.spreadsheet': ['.ods'],
  'application/vnd.oasis.opendocument.presentation': ['.odp'],
}
const PLAIN = ['.txt', '.csv', '.md', '.ics', '.vcf', '.json', '.gpx', '.log']

const isText = (bytes: Buffer): boolean => {
  if (bytes.includes(0)) return false
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    return true
  } catch {
    return false
  }
}

/** The type of a file by its bytes; throws when it is not what its name says, or nothing we keep. */
export const typeOfFile = async (name: string, bytes: Buffer): Promise<string> => {
  const ending = extname(name).toLowerCase()
  const refuse = (message: string) =>
    new ProblemError(422, 'bad-file', message, { fields: [{ path: 'name', message }] })
  if (bytes.length === 0) throw refuse(`${name} is empty. Nothing was attached.`)
  const found = await fileTypeFromBuffer(bytes)
  if (!found) {
    if (PLAIN.includes(ending) && isText(bytes)) return 'text/plain; charset=utf-8'
    throw refuse(`${name} is of a kind that cannot be attached, or not what its name says.`)
  }
  const endings = KINDS[found.mime]
  if (!endings) throw refuse(`${name} is of a kind that cannot be attached (${found.mime}).`)
  if (!endings.includes(ending))
    throw refuse(`${name} is not what its name says: its content is ${found.ext.toUpperCase()}.`)
  return found.mime
}
