import { LiveTurn } from '#core/schema/live'

/** Begins a run, pauses or ends it; answers with the number of the run. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const { run } = await turnBroadcast(idParam(event, 'place'), await bodyAs(event, LiveTurn, 'turn', 4096))
  return { run }
})
