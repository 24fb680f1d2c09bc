/** Forgets the account. Orders that are with the service stay there. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  await disconnect()
  return connection()
})
