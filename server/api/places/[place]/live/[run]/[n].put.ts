import { LiveSegment } from '#core/schema/live'
import { parseAs } from '#core/schema/validate'

/** The largest segment that is taken, bytes. */
const MOST = 32 << 20

/** Takes a segment, its bytes as the body and its length (s) as `duration`; answers with how many students watch. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const place = idParam(event, 'place')
  const segment = checked(() =>
    parseAs(
      LiveSegment,
      { run: indexParam(event, 'run'), n: indexParam(event, 'n'), duration: Number(getQuery(event).duration) },
      'segment',
    ),
  )
  await putSegment(place, segment, await limitedBody(event, MOST))
  return { watching: watching(place) }
})
