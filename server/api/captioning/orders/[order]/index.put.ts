import { CaptionOrder } from '#core/schema/captioning'

/** Orders captions under a name of one's own; the same order sent again is the same. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'order')
  const order = await bodyAs(event, CaptionOrder, 'order', 4 << 20)
  return askOrder(id, '', { method: 'PUT', type: 'application/json', body: JSON.stringify(order) })
})
