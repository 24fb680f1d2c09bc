/** What was watched at a place as statements of the Experience API, for a record store. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const place = await places().read(idParam(event, 'place'))
  if (place) await logRead(event, place.id, 'Statements of watching')
  return place ? statementsAt(place) : []
})
