/** Makes a complete upload the publication that counts. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  await commitUpload(idParam(event, 'id'), idParam(event, 'upload'))
  return { published: true }
})
