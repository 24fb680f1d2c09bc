/** Whether the asking browser is the author's: 200, or 401 with a sentence. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return { author: true }
})
