/** Removes at once what was replaced of a publication, which otherwise stays a day for those who watch it. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'id')
  const removed = await removeEarlier(id)
  await logActivity(event, { action: 'removed-earlier', publicationId: id, says: await titleOf(id) })
  return { removed }
})
