/** Connects the account of a captioning service, once the service knows it. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return connect(await bodyAs(event, Connection, 'account', 1 << 14))
})
