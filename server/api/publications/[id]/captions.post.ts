import { CaptionsStart } from '#core/schema/publication'

/** Publishes captions anew, without the films. Sent again after a failure, it changes nothing more. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  await publishCaptions(idParam(event, 'id'), await bodyAs(event, CaptionsStart, 'captions', 32 << 20))
  setResponseStatus(event, 204)
  return null
})
