import { LiveTransition } from '#core/schema/live'

/** Begins a run, pauses or ends it; answers with the number of the run. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const { run } = await transitionBroadcast(
    idParam(event, 'place'),
    await bodyAs(event, LiveTransition, 'change of the broadcast', 4096),
  )
  return { run }
})
