import { SetsStart } from '#core/schema/publication'

/** Publishes questions anew, without the films. Sent again after a failure, it changes nothing more. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return publishSets(idParam(event, 'id'), await bodyAs(event, SetsStart, 'question set', 8 << 20))
})
