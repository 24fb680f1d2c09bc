/** Whether a picture is there, so that it is not sent again. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  return { there: await hasPicture(idParam(event, 'id'), getRouterParam(event, 'hash') ?? '') }
})
