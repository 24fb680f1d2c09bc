/** What students sent back, after the number the author already has. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const after = String(getQuery(event).after ?? '0')
  if (!/^\d{1,12}$/.test(after)) refuse(400, '“after” is the number of the last response you have.')
  return readEvents(idParam(event, 'id'), Number(after))
})
