import { Announcement } from '#core/schema/live'

/** Announces a lecture that students can watch while it is held: its place is on the course page from now on. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  const announcement = await bodyAs(event, Announcement, 'announcement', 1 << 16)
  if (announcement.place.id !== id) refuse(400, 'The place has another id than its address.')
  if (await readPublication(announcement.place.publicationId)) refuse(409, 'This lecture is published already: students watch its recording.')
  const site = await courseSite()
  await site.announce(announcement.place, announcement.title, announcement.startsAt)
  await writePlace(announcement.place)
  await announce(announcement)
  return announcement.place
})
