/** Cancels an order; one that was delivered cannot be. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return askOrder(idParam(event, 'order'), '', { method: 'DELETE' })
})
