/** Starts jobs again that were cut off when their page was closed. */
import { uncaptioned } from '#core/record/recording'
import type { JobRow } from '~/db/database'
import type { useJobs } from '~/stores/jobs'
import { draftCaptions } from './captioning'
import { loadCheckedParts } from './lectures'
import { publish } from './publishing'

/** What goes wrong is said in the job's own row; a lecture that is gone needs nothing. */
export async function startAgain(job: JobRow, jobs: ReturnType<typeof useJobs>): Promise<void> {
  const parts = await loadCheckedParts(job.lectureId)
  if (!parts || !job.again) return
  if (job.again.do === 'publish') await publish(parts, job.again.where, jobs)
  else if (parts.recording) await draftCaptions(parts.recording, job.lectureId, job.again.keep ? uncaptioned(parts.recording, parts.captions?.cues ?? []) : parts.recording.takes, job.again.keep, jobs)
}
