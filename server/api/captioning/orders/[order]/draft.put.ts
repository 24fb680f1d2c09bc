/** Sends along what is there already, as WebVTT. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'order')
  const text = new TextDecoder().decode(await limitedBody(event, 4 << 20))
  return askOrder(id, 'draft', { method: 'PUT', type: 'text/vtt', body: text })
})
