/** Ranges of a file (RFC 9110 §14), and sending one no faster than the client takes it. */
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { getRequestHeader, setHeader, setResponseStatus, type H3Event } from 'h3'
import parseRange from 'range-parser'
import { refuse } from './border'

/**
 * The bytes to send, `from`…`to` inclusive, with the status and headers that say so. Several ranges, and what cannot be
 * read, get the whole file, as do those who hold another version of it (`If-Range`).
 */
export function requestedRange(event: H3Event, size: number, etag: string): { from: number; to: number } {
  const whole = { from: 0, to: size - 1 }
  const header = getRequestHeader(event, 'range')
  const held = getRequestHeader(event, 'if-range')
  if (!header || event.method === 'HEAD' || (held && held !== etag)) return whole
  const ranges = parseRange(size, header)
  if (ranges === -1) {
    setHeader(event, 'content-range', `bytes */${size}`)
    refuse(416, 'There is nothing in this range.')
  }
  const [range, ...more] = ranges === -2 || ranges.type !== 'bytes' ? [] : ranges
  if (!range || more.length > 0) return whole
  setResponseStatus(event, 206)
  setHeader(event, 'content-range', `bytes ${range.start}-${range.end}/${size}`)
  return { from: range.start, to: range.end }
}

/** Sends slices as the client takes them; one that hangs up ends the reading. */
export async function sendSlices(event: H3Event, slices: AsyncGenerator<Uint8Array>): Promise<void> {
  if (event.method === 'HEAD') {
    event.node.res.end()
    return
  }
  try {
    await pipeline(Readable.from(slices, { objectMode: true, highWaterMark: 1 }), event.node.res)
  } catch (error) {
    // A client that has gone is no fault; anything else is, and the headers are out already.
    if ((error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE') {
      console.error(error)
      event.node.res.destroy()
    }
  }
}
