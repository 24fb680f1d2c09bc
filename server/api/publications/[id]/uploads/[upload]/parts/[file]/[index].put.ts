import { PART_SIZE } from '#core/schema/publication'

/** Takes one part of a file, its bytes as the body. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const [id, upload, index] = [idParam(event, 'id'), idParam(event, 'upload'), indexParam(event, 'index')]
  const file = getRouterParam(event, 'file', { decode: true }) ?? ''
  await putPart(id, upload, file, index, await limitedBody(event, PART_SIZE))
  return { taken: true }
})
