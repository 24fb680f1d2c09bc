import type { Activity } from '#core/schema/audit'

/** The activity log, after the number of the last entry that whoever asks has. */
export default defineEventHandler(async (event): Promise<Activity> => {
  await requireAuthor(event)
  return { entries: await activityAfter(numberQuery(event, 'after')) }
})
