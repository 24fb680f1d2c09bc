/** Captions that came, as WebVTT. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const number = indexParam(event, 'number')
  const text = await delivery(idParam(event, 'order'), number)
  setHeader(event, 'content-type', 'text/vtt; charset=utf-8')
  return text
})
