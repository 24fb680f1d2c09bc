/** Makes a complete upload the publication that counts. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'id')
  const before = await rulesOf(id)
  await commitUpload(id, idParam(event, 'upload'))
  await logActivity(event, { action: 'published', publicationId: id, says: await titleOf(id) })
  await logRules(event, id, before)
  return { published: true }
})
