/** Where the course site is that this server is connected to. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return { address: courseSiteAddress() }
})
