/** Where an order stands. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return askOrder(idParam(event, 'order'), '')
})
