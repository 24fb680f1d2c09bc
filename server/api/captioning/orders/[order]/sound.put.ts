import type { Readable } from 'node:stream'

/** Sends the sound of what is ordered, 16 kHz mono; it goes on to the service as it comes, and is not kept here. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'order')
  const length = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (!(length > 0)) refuse(411, 'Say how long the sound is.')
  if (length > 4 * 3600 * 32_000 + 4096) refuse(413, 'This is more than four hours of sound.')
  return askOrder(id, 'sound', { method: 'PUT', type: 'audio/wav', body: event.node.req as Readable, length })
})
