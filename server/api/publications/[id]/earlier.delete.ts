/** Removes at once what was replaced of a publication, which otherwise stays a day for those who watch it. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return { removed: await removeEarlier(idParam(event, 'id')) }
})
