/** What could not be read and was set aside, in sentences. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return useStore().setAside()
})
