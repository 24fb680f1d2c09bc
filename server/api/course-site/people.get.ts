/** Who can be enrolled in courses from here. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return sitePeople()
})
