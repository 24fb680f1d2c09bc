/** Takes the init segment of a run. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const [place, run] = [idParam(event, 'place'), indexParam(event, 'run')]
  await putInit(place, run, await limitedBody(event, 1 << 16))
  return { taken: true }
})
