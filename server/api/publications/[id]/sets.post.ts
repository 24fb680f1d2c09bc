import { SetsStart } from '#core/schema/publication'

/** Publishes questions anew, without the films. Sent again after a failure, it changes nothing more. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'id')
  const start = await bodyAs(event, SetsStart, 'question set', 8 << 20)
  const before = await rulesOf(id)
  const published = await publishSets(id, start)
  await logActivity(event, { action: 'published-questions', publicationId: id, says: await titleOf(id) })
  await logRules(event, id, before)
  return published
})
