import { MOST_PICTURE } from '#core/questions/pictures'

/** Takes a picture of a question, its bytes as the body. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const bytes = await limitedBody(event, MOST_PICTURE)
  await putPicture(idParam(event, 'id'), getRouterParam(event, 'hash') ?? '', bytes)
  return { taken: true }
})
