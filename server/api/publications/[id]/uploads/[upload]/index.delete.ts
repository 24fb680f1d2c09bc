/** Gives an upload up. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  await abortUpload(idParam(event, 'id'), idParam(event, 'upload'))
  return { removed: true }
})
