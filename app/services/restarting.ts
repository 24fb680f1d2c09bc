/** Starts jobs again that were cut off when their page was closed. */
import type { JobRow } from '~/db/database'
import type { useJobs } from '~/stores/jobs'
import { draftCaptions } from './captioning'
import { documentOf } from './fingerprint'
import { toDraft } from './heard'
import { askForAuthor } from '~/utils/author'
import { loadCheckedParts } from './lectures'
import { putFinishOn } from './finishes'
import { publish } from './publishing'

const WHY = {
  publish: 'Publishing was cut off when the page was closed. Sign in, and it is started again.',
  captions: 'Drafting captions was cut off when the page was closed. Sign in, and it is started again.',
}

/**
 * Publishing and captions go through the server: an author whose session is gone – a browser that was killed may not have stored it yet –
 * is asked for the key before the work, not told so after it. What goes wrong is said in the job's own row.
 * @throws {Error} with a sentence, or JobCancelled when it goes on in another tab or was cancelled
 */
export async function restartJob(job: JobRow, jobs: ReturnType<typeof useJobs>): Promise<void> {
  const { id, lectureId, restart } = job
  if (restart?.do === 'finish') {
    await putFinishOn(restart.finishId, restart.lectureIds, jobs, job)
    return
  }
  const may = restart && (await askForAuthor(WHY[restart.do]))
  const parts = may ? await loadCheckedParts(lectureId) : null
  if (restart?.do === 'publish' && parts)
    await publish(parts, restart.place, jobs, { replaces: id, revisionId: restart.revisionId })
  else if (restart?.do === 'captions' && parts?.recording) {
    const { recording } = parts
    const takes = restart.keep ? await toDraft(recording, documentOf(parts, 'captions')?.cues ?? []) : recording.takes
    await draftCaptions(recording, lectureId, takes, restart.keep ? 'add' : 'replace', jobs, { replaces: id })
  } else await jobs.leave(id)
}
