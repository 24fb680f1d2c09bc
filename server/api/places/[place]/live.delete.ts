/** Takes an announcement back: the place is gone from the course page, unless a recording stands there. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  return inPlaceTurn(id, async () => {
    if (!(await broadcasts().read(id))) refuse(404, 'No lecture is announced at this place.')
    const place = await places().read(id)
    if (!place || !(await readPublication(place.publicationId))) {
      await withdrawItem(id)
      await places().remove(id)
    }
    await endBroadcast(id)
    return { withdrawn: true }
  })
})
