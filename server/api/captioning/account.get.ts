/** Which captioning service is connected, and what its account is. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return connection()
})
