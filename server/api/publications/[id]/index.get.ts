import type { PublishedVersions } from '#core/schema/publication'

/** What of a publication counts, for a browser that does not know. */
export default defineEventHandler(async (event): Promise<PublishedVersions> => {
  await requireAuthor(event)
  const found = await readPublication(idParam(event, 'id'))
  if (!found) refuse(404, 'Nothing of this lecture is published here.')
  return { version: found.version, sets: Object.fromEntries(found.sets.map(({ set, version }) => [set.id, version])) }
})
