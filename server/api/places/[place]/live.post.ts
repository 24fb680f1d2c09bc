import { LiveTransition } from '#core/schema/live'

/** Begins a run, pauses or ends it; answers with the number of the run. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const id = idParam(event, 'place')
  const change = await bodyAs(event, LiveTransition, 'change of the broadcast', 4096)
  return inPlaceTurn(id, async () => {
    const broadcast = await transitionBroadcast(id, change)
    const place = await places().read(id)
    // Of a pause the course page says nothing. In the turn of its place, so that nothing is said of one that is gone.
    if (place && change.to !== 'paused')
      tellLive(place, broadcast, change.to).catch((error: unknown) => console.error(error))
    return { run: broadcast.run }
  })
})
