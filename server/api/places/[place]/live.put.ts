import { Announcement } from '#core/schema/live'

/** Announces a lecture that students can watch while it is held: its place is on the course page from now on. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  const announcement = await bodyAs(event, Announcement, 'announcement', 1 << 16)
  if (announcement.place.id !== id) refuse(400, 'The place has another id than its address.')
  return inPlaceTurn(id, async () => {
    // What stands at the place counts, whatever publication the announcement names.
    for (const place of [await places().read(id), announcement.place])
      if (place && (await readPublication(place.publicationId)))
        refuse(409, 'This lecture is published already: students watch its recording.')
    await places().write(id, announcement.place)
    await announce(announcement)
    await announceItem(announcement.place, announcement.title, announcement.startsAt)
    return announcement.place
  })
})
