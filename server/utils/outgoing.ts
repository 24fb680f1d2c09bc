/**
 * What is asked of other houses' services: only of addresses that may be asked, and what they answer is read so far and no
 * further, whatever they send.
 */
import { lookup as resolve, type LookupAddress, type LookupOptions } from 'node:dns'
import { BlockList, isIP } from 'node:net'
import { Agent, fetch as fetchBy, type RequestInit, type Response } from 'undici'
import { collectBytes } from '#core/schema/collect'

/** An answer that is larger than its limit. */
export class TooLarge extends Error {
  constructor(most: number) {
    super(`The answer is larger than ${most} bytes.`)
    this.name = 'TooLarge'
  }
}

/** The text of an answer of `most` bytes at most. @throws {TooLarge} */
export async function limitedText(response: { body: unknown }, most: number): Promise<string> {
  if (!response.body) return ''
  const bytes = await collectBytes(response.body as AsyncIterable<Uint8Array>, most, 0)
  if (!bytes) throw new TooLarge(most)
  return new TextDecoder().decode(bytes)
}

/**
 * What another house says of itself, as it may be shown: one line, 200 characters at most, without what would pass for
 * anything else (control and direction characters, addresses).
 */
export function foreignWords(said: unknown): string {
  if (typeof said !== 'string') return ''
  const line = said
    .slice(0, 2000)
    .replace(/[\p{Cc}\p{Cf}\p{Co}\s]+/gu, ' ')
    .replace(/\b(?:[a-z][a-z\d+.-]*:\/\/|www\.)\S+/gi, '(an address)')
    .trim()
  return line.length > 200 ? `${line.slice(0, 199)}…` : line
}

/** Networks within a house, or of the computer itself (IANA special-purpose registries, RFC 6890). */
const within = new BlockList()
for (const [network, bits] of [
  ...([
    ['0.0.0.0', 8],
    ['10.0.0.0', 8],
    ['100.64.0.0', 10],
    ['127.0.0.0', 8],
    ['169.254.0.0', 16],
  ] as const),
  ...([
    ['172.16.0.0', 12],
    ['192.0.0.0', 24],
    ['192.168.0.0', 16],
    ['198.18.0.0', 15],
    ['224.0.0.0', 3],
  ] as const),
])
  within.addSubnet(network, bits, 'ipv4')
for (const [network, bits] of [
  ['::', 127],
  ['64:ff9b::', 96],
  ['fc00::', 7],
  ['fe80::', 10],
  ['ff00::', 8],
] as const)
  within.addSubnet(network, bits, 'ipv6')

/** Whether an IP address is one of the computer itself or of a private network, also written as IPv6 (RFC 4291, 2.5.5.2). */
export const isWithin = (address: string): boolean => within.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4')

/** An address that may not be asked. */
export class NotAllowed extends Error {
  override name = 'NotAllowed'
  constructor(readonly host: string) {
    super(`${host} is in a private network.`)
  }
}

type Found = (error: Error | null, address: string | LookupAddress[], family?: number) => void

/** Looks a name up, and refuses what leads into a private network: checked where it is connected, not before. */
function lookUp(hostname: string, options: LookupOptions, found: Found): void {
  resolve(hostname, { ...options, all: true }, (error, addresses) => {
    if (error) return found(error, [])
    if (addresses.some(({ address }) => isWithin(address))) return found(new NotAllowed(hostname), [])
    const [first] = addresses
    if (options.all || !first) return found(null, addresses)
    return found(null, first.address, first.family)
  })
}

const outside = new Agent({ connect: { lookup: lookUp as never } })

/**
 * Asks an address that a person gave. One in a private network is asked only where its host is trusted.
 * @param trusted hosts (`host` or `host:port`) that may be asked wherever they are
 * @throws {NotAllowed}
 */
export async function askOutside(address: string, init: RequestInit, trusted: readonly string[]): Promise<Response> {
  const { host, hostname } = new URL(address)
  if (trusted.includes(host) || trusted.includes(hostname)) return fetchBy(address, init)
  const literal = hostname.replace(/^\[|\]$/g, '')
  if (isIP(literal) && isWithin(literal)) throw new NotAllowed(hostname)
  return fetchBy(address, { ...init, dispatcher: outside }).catch((error: unknown) => {
    throw error instanceof Error && error.cause instanceof NotAllowed ? error.cause : error
  })
}
