/** Takes an announcement back: the place is gone from the course page. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  if (!(await readBroadcast(id))) refuse(404, 'No lecture is announced at this place.')
  const site = await courseSite()
  await site.withdraw(id)
  await endBroadcast(id)
  await removePlace(id)
  return { withdrawn: true }
})
