/**
 * Takes a lecture off a course page. What students sent back there stays, and can still be fetched. Sent again after a
 * failure, it is finished.
 */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  return inPlaceTurn(id, async () => {
    const says = await titleAt(id)
    await withdrawItem(id)
    await endBroadcast(id)
    await places().remove(id)
    await logActivity(event, { action: 'withdrawn', placeId: id, says })
    return { removed: true }
  })
})
