import { CaptionsStart } from '#core/schema/publication'

/** Publishes captions anew, without the films. Sent again after a failure, it changes nothing more. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'id')
  await publishCaptions(id, await bodyAs(event, CaptionsStart, 'captions', 32 << 20))
  await logActivity(event, { action: 'published-captions', publicationId: id, says: await titleOf(id) })
  setResponseStatus(event, 204)
  return null
})
