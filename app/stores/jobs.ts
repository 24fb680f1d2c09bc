/**
 * Long work: each job has a media worker of its own, a row in the database with its progress, and can be
 * cancelled at once. A Web Lock says that a job lives in some tab; rows without their lock were cut off by a reload.
 */
import { errorMessage } from '#core/text/error-message'
import { useThrottleFn } from '@vueuse/core'
import type { Remote } from 'comlink'
import { defineStore } from 'pinia'
import { db, type JobRow } from '~/db/database'
import { newId, nowInstant } from '~/services/ids'
import { startMediaWorker, type MediaWorker } from '~/services/media-worker'
import { removeUnused } from '~/db/files'
import { removeScratch } from '#media/store'
import type { Engine } from '#media/worker'

export class JobCancelled extends Error {
  override name = 'JobCancelled'
}

export interface JobContext {
  engine: Remote<Engine>
  /** Name for the job's scratch file; removed when the job ends, however it ends. */
  scratch: string
  /**
   * May be told for each packet: it is written now and then, and the last of it at the end.
   * @param share 0…1
   */
  progress(share: number, says?: string): void
  signal: AbortSignal
  /** Names files before they are stored: should the job not end well, those that nothing has by then are removed. */
  holds(fileIds: readonly string[]): Promise<void>
  /** Keeps in its row what came of it so far, and what is left to be done should it be cut off. */
  tell(more: Pick<JobRow, 'report' | 'restart'>): Promise<void>
  /**
   * From here on it cannot be cancelled any more.
   * @throws {JobCancelled} when it has been
   */
  noReturn(): void
}

/** What went wrong in jobs that a person waits for: their rows say it, and the head tells it. */
const toldByRow = new WeakSet<object>()
export const isToldByRow = (error: unknown): boolean =>
  typeof error === 'object' && error !== null && toldByRow.has(error)

/** Least time between two writes of a job's progress, ms: what follows the jobs reads again at each. */
const PROGRESS_PACE = 250

const live = new Map<string, { lectureId: string; abort: AbortController; final: boolean }>()

/** Ids of jobs that were cancelled in a tab other than theirs. */
const cancelledElsewhere = new BroadcastChannel('thaw-jobs-cancelled')
function abortHere(id: string): void {
  const job = live.get(id)
  if (job && !job.final) job.abort.abort()
}
cancelledElsewhere.addEventListener('message', ({ data }: MessageEvent<string>) => abortHere(data))

/**
 * Changes the row of a job that was cut off, with what `also` writes, in one transaction. Only one tab gets to: that of
 * a job that runs somewhere, or was dealt with meanwhile, stays as it is.
 */
async function endCutOff(id: string, change: Pick<JobRow, 'state' | 'says'>, also?: JobRow): Promise<boolean> {
  return navigator.locks.request(`job-${id}`, { ifAvailable: true }, (lock) =>
    db.transaction('rw', db.jobs, async () => {
      if (!lock || (await db.jobs.get(id))?.state !== 'running') return false
      await db.jobs.update(id, change)
      if (also) await db.jobs.put(also)
      return true
    }),
  )
}

/** Removes a job's scratch file; just after a worker ended, its lock on the file may linger for a moment. */
async function sweep(name: string): Promise<void> {
  for (let attempt = 0; ; attempt++) {
    try {
      await removeScratch(name)
      return
    } catch (error) {
      if (attempt >= 20) throw error
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
  }
}

const CUT_OFF = 'Cut off when the page was closed.'
/** What becomes of a job that was cut off and is not restarted from its row. */
const cutOffWords = {
  analyse: 'It goes on where it was.',
  // Those without a way to restart are of takes that have come, and are found again.
  captions: 'It goes on where it was.',
  order: 'It is sent again by itself.',
  settle: 'It was started again.',
} as Partial<Record<JobRow['kind'], string>>
const LEFT = `${CUT_OFF} Nothing was lost; start it again.`

/** How a job is restarted should the page be closed meanwhile, whether a person waits for it, what it restarts. */
export interface JobOptions extends Pick<JobRow, 'restart' | 'awaited' | 'report'> {
  /** The job that was cut off and gives way to this one. */
  replaces?: string
}

export const useJobs = defineStore('jobs', () => {
  /**
   * Runs a job. Resolves with what `run` gives; rejects with JobCancelled – also when what it replaces goes on in
   * another tab – or with what went wrong, which the job's row then says too.
   */
  async function start<T>(
    kind: JobRow['kind'],
    lectureId: string,
    says: string,
    run: (context: JobContext) => Promise<T>,
    { replaces, ...more }: JobOptions = {},
  ): Promise<T> {
    const id = newId()
    const abort = new AbortController()
    const job = { lectureId, abort, final: false }
    live.set(id, job)
    const scratch = `job-${id}`
    let worker: MediaWorker | undefined
    let held: string[] = []
    /** Progress that was told and is not written yet. */
    let told: Partial<Pick<JobRow, 'progress' | 'says'>> = {}
    const unwritten = () => {
      const now = told
      told = {}
      return now
    }
    const write = useThrottleFn(() => db.jobs.update(id, unwritten()), PROGRESS_PACE, true)
    const cancelled = new Promise<never>((_, reject) =>
      abort.signal.addEventListener('abort', () => reject(new JobCancelled('Cancelled.'))),
    )
    cancelled.catch(() => undefined)
    return navigator.locks.request(scratch, async () => {
      try {
        const row: JobRow = {
          id,
          lectureId,
          kind,
          state: 'running',
          progress: 0,
          says,
          startedAt: nowInstant(),
          ...more,
        }
        // In one transaction: a page that is closed between the two would leave neither to be restarted, or both.
        if (!replaces) await db.jobs.put(row)
        else if (!(await endCutOff(replaces, { state: 'failed', says: `${CUT_OFF} It was started again.` }, row)))
          throw new JobCancelled('It goes on elsewhere.')
        worker = startMediaWorker()
        const context: JobContext = {
          engine: worker.engine,
          scratch,
          signal: abort.signal,
          async holds(fileIds) {
            held = [...held, ...fileIds]
            await db.jobs.update(id, { files: held })
          },
          async tell(more) {
            await db.jobs.update(id, more)
          },
          noReturn() {
            if (abort.signal.aborted) throw new JobCancelled('Cancelled.')
            job.final = true
          },
          progress(share, what) {
            told = { ...told, progress: share, ...(what && { says: what }) }
            void write()
          },
        }
        const value = await Promise.race([run(context), cancelled, worker.failed])
        await db.jobs.update(id, { ...unwritten(), state: 'done', progress: 1 })
        return value
      } catch (error) {
        const message = errorMessage(error)
        await db.jobs.update(id, {
          ...unwritten(),
          ...(error instanceof JobCancelled ? { state: 'cancelled' } : { state: 'failed', says: message }),
        })
        await removeUnused(held)
        if (more.awaited && error instanceof Error) toldByRow.add(error)
        throw error
      } finally {
        worker?.end()
        live.delete(id)
        await sweep(scratch)
      }
    })
  }

  /** Cancels a job, whatever tab it runs in, or one that waits to be restarted. */
  async function cancel(id: string): Promise<void> {
    abortHere(id)
    cancelledElsewhere.postMessage(id)
    await endCutOff(id, { state: 'cancelled', says: CUT_OFF })
  }

  /** Cancels the jobs of a lecture that is to be deleted, and waits until they have let go of it. */
  async function cancelOf(lectureId: string): Promise<void> {
    const ids = [...live].filter(([, job]) => job.lectureId === lectureId).map(([id]) => id)
    ids.forEach(abortHere)
    await Promise.all(ids.map((id) => navigator.locks.request(`job-${id}`, () => undefined)))
  }

  /**
   * At the app's start: what jobs that a reload cut off had begun to write is removed.
   * @returns those that are to be restarted, whose rows stay until they are; the rows of the others say what happened
   */
  async function tidyUp(): Promise<JobRow[]> {
    const cutOff: JobRow[] = []
    for (const job of await db.jobs.where('state').equals('running').toArray())
      await navigator.locks.request(`job-${job.id}`, { ifAvailable: true }, async (lock) => {
        if (!lock) return
        await sweep(`job-${job.id}`)
        await removeUnused(job.files ?? [])
        if (job.restart) cutOff.push(job)
        else {
          const words = cutOffWords[job.kind]
          await db.jobs.update(job.id, { state: 'failed', says: words ? `${CUT_OFF} ${words}` : LEFT })
        }
      })
    // One that was cancelled or failed may have stored a last piece after it had been told.
    for (const { id, files } of await db.jobs.filter((j) => j.state !== 'running' && !!j.files?.length).toArray()) {
      await removeUnused(files ?? [])
      await db.jobs.update(id, { files: [] })
    }
    const old = (await db.jobs.orderBy('id').toArray()).sort((a, b) => b.startedAt.localeCompare(a.startedAt)).slice(50)
    await db.jobs.bulkDelete(old.filter((j) => j.state !== 'running').map((j) => j.id))
    return cutOff
  }

  /** Leaves a job that was cut off to the person. */
  async function leave(id: string): Promise<void> {
    await endCutOff(id, { state: 'failed', says: LEFT })
  }

  return { start, cancel, cancelOf, tidyUp, leave }
})
