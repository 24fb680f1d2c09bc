import { Place } from '#core/schema/publication'

/** Puts a publication at a place in a course and tells the course site. Sent again after a failure, it is finished. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  const place = await bodyAs(event, Place, 'place', 1 << 16)
  if (place.id !== id) refuse(400, 'The place has another id than its address.')
  if (place.until !== null && Date.parse(place.until) <= Date.parse(place.from))
    refuse(400, 'The release has to end after it begins.')
  return inPlaceTurn(id, async () => {
    const publication = await readPublication(place.publicationId)
    if (!publication) refuse(409, 'Publish the lecture before placing it in a course.')
    await places().write(id, place)
    await forgetWhoWatched(place)
    // It was watched live at this place; from now on its recording is.
    await endBroadcast(id)
    await announceItem(place, publication.manifest.title)
    const { publicationId, from, until } = place
    const says = `“${publication.manifest.title}”, from ${from}${until ? ` to ${until}` : ''}`
    await logActivity(event, { action: 'placed', publicationId, placeId: id, says })
    return place
  })
})
