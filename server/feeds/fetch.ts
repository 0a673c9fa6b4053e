import { lookup } from 'node:dns/promises'
import { request as httpRequest, type IncomingMessage } from 'node:http'
import { request as httpsRequest } from 'node:https'
import { BlockList, isIP } from 'node:net'

/** Why an address could not be read; the message is for a person. */
export class FeedTrouble extends Error {}

const MOST_BYTES = 10 * 1024 * 1024
const MOST_MS = 10_000
const MOST_REDIRECTS = 3

/** Networks that are not the open internet (RFC 6890): Marmot must not be made to look into the house it stands in. */
const inside = new BlockList()
for (const [net, bits] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.0.2.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['198.51.100.0', 24],
  ['203.0.113.0', 24],
  ['224.0.0.0', 3],
] as const)
  inside.addSubnet(net, bits, 'ipv4')
for (const [net, bits] of [
  ['::', 128],
  ['::1', 128],
  ['::ffff:0:0', 96],
  // Addresses of the old network inside the new: compatible (RFC 4291), translated (RFC 6052, 8215), 6to4 and Teredo.
  ['::', 96],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['2002::', 16],
  ['2001::', 32],
  ['100::', 64],
  ['2001:db8::', 32],
  ['fc00::', 7],
  ['fe80::', 10],
  // Site-local, which RFC 3879 took back and some networks still use.
  ['fec0::', 10],
  ['ff00::', 8],
] as const)
  inside.addSubnet(net, bits, 'ipv6')

const isInside = (address: string): boolean => inside.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4')

/** Reads an address as a feed's; throws `FeedTrouble` when it is none that may be read. */
export const feedAddress = (text: string): URL => {
  let url: URL
  try {
    url = new URL(text.replace(/^webcal:/i, 'https:'))
  } catch {
    throw new FeedTrouble('This is no web address.')
  }
  if (url.protocol !== 'https:' && url.protocol !== 'http:')
    throw new FeedTrouble('Only http and https addresses can be read.')
  if (url.username || url.password) throw new FeedTrouble('An address must not carry a password.')
  return url
}

/** The host's address on the network, unless it is inside and not allowed. `allowed` has hosts with their ports. */
const findHost = async (url: URL, allowed: ReadonlySet<string>): Promise<string> => {
  const host = url.hostname.replace(/^\[|\]$/g, '')
  let addresses: string[]
  try {
    addresses = isIP(host) ? [host] : (await lookup(host, { all: true })).map((found) => found.address)
  } catch {
    throw new FeedTrouble(`${host} cannot be found.`)
  }
  const [address] = addresses
  if (!address) throw new FeedTrouble(`${host} cannot be found.`)
  const port = url.port || (url.protocol === 'https:' ? '443' : '80')
  if (allowed.has(`${host}:${port}`)) return address
  if (addresses.some(isInside)) throw new FeedTrouble(`${host} is on a private network, which is not read.`)
  return address
}

export interface Fetched {
  /** What was sent, in a buffer of its own; null when nothing changed since the last time. */
  readonly bytes: Uint8Array<ArrayBuffer> | null
  /** The charset that the header names. */
  readonly charset: string | null
  readonly etag: string | null
  readonly lastModified: string | null
}

interface Before {
  readonly etag: string | null
  readonly lastModified: string | null
}

const ask = (url: URL, address: string, before: Before, signal: AbortSignal): Promise<IncomingMessage> =>
  new Promise((resolve, reject) => {
    const send = url.protocol === 'https:' ? httpsRequest : httpRequest
    const family = isIP(address)
    const asked = send(
      url,
      {
        signal,
        // The address that was checked is the one that is asked, whatever the name means a moment later.
        lookup: (_host, options, done) => {
          if (options.all) done(null, [{ address, family }])
          else done(null, address, family)
        },
        headers: {
          accept: 'text/calendar',
          'user-agent': 'Marmot',
          ...(before.etag ? { 'if-none-match': before.etag } : {}),
          ...(before.lastModified ? { 'if-modified-since': before.lastModified } : {}),
        },
      },
      resolve,
    )
    asked.on('error', reject)
    asked.end()
  })

const readBytes = async (response: IncomingMessage): Promise<Uint8Array<ArrayBuffer>> => {
  const parts: Buffer[] = []
  let size = 0
  for await (const part of response) {
    size += part.length
    if (size > MOST_BYTES) throw new FeedTrouble('It is larger than 10 MB.')
    parts.push(part)
  }
  const bytes = new Uint8Array(size)
  let filled = 0
  for (const part of parts) {
    bytes.set(part, filled)
    filled += part.length
  }
  return bytes
}

/** Fetches a feed within its limits: 10 s and 10 MB in all, three redirects, no private networks. Throws `FeedTrouble`. */
export const fetchFeedText = async (
  address: string,
  before: Before,
  allowed: ReadonlySet<string>,
): Promise<Fetched> => {
  const signal = AbortSignal.timeout(MOST_MS)
  let url = feedAddress(address)
  try {
    for (let turn = 0; turn <= MOST_REDIRECTS; turn++) {
      const response = await ask(url, await findHost(url, allowed), before, signal)
      const status = response.statusCode ?? 0
      const header = (name: string) => {
        const value = response.headers[name]
        return typeof value === 'string' ? value : null
      }
      if (status === 304) {
        response.resume()
        return { bytes: null, charset: null, etag: before.etag, lastModified: before.lastModified }
      }
      const location = header('location')
      if (status >= 300 && status < 400 && location) {
        response.resume()
        url = feedAddress(new URL(location, url).href)
        continue
      }
      if (status !== 200) {
        response.resume()
        throw new FeedTrouble(`It answered ${status}.`)
      }
      return {
        bytes: await readBytes(response),
        charset: /charset="?([\w.:-]+)/i.exec(header('content-type') ?? '')?.[1] ?? null,
        etag: header('etag'),
        lastModified: header('last-modified'),
      }
    }
  } catch (error) {
    if (error instanceof FeedTrouble) throw error
    if (signal.aborted) throw new FeedTrouble('It did not answer within 10 seconds.')
    throw new FeedTrouble('It cannot be reached.')
  }
  throw new FeedTrouble('It sends from one address to the next without end.')
}
