/** Goes on with what was under way when the page before was closed; fetched once the first page is there. */
import { errorMessage } from '#core/text/error-message'
import { isToldByRow, JobCancelled, type useJobs } from '~/stores/jobs'
import { keepFollowing } from '~/utils/follow-orders'
import { draftArrivals } from './captioning'
import { writeMissingCards } from './cards'
import { restartJob } from './restarting'
import { recoverTakes } from './takes'

/** What the author is told while it goes on. */
export interface ResumingPorts {
  /** Something failed that nothing else tells of. @param why a sentence */
  fail(why: string): void
  /** Work that was cut off cannot go on. @param why a sentence */
  notRestarted(why: string): void
  /** A recording was cut off, and is made ready now. */
  recovered(): void
}

/** @throws {Error} with a sentence, when recordings could not be made ready or captions not be drafted */
export async function resumeWork(jobs: ReturnType<typeof useJobs>, tell: ResumingPorts): Promise<void> {
  void writeMissingCards().catch((error: unknown) => tell.fail(errorMessage(error)))
  for (const job of await jobs.tidyUp())
    void restartJob(job, jobs).catch((error: unknown) => {
      if (!(error instanceof JobCancelled) && !isToldByRow(error)) tell.notRestarted(errorMessage(error))
    })
  await recoverTakes(jobs, () => tell.recovered())
  await draftArrivals(jobs)
  void keepFollowing(jobs, true)
}
