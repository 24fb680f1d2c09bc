/**
 * Long work: each job has a media worker of its own, a row in the database with its progress, and can be
 * cancelled at once. A Web Lock says that a job lives in some tab; rows without their lock were cut off by a reload.
 */
import { releaseProxy, wrap, type Remote } from 'comlink'
import { defineStore } from 'pinia'
import { db, type JobRow } from '~/db/database'
import { newId, nowInstant } from '~/services/ids'
import { removeScratch } from '#media/store'
import type { Engine } from '#media/worker'

export class JobCancelled extends Error {
  override name = 'JobCancelled'
}

export interface JobContext {
  engine: Remote<Engine>
  /** Name for the job's scratch file; removed when the job ends, however it ends. */
  scratch: string
  /** @param share 0…1 */
  progress(share: number, says?: string): void
  signal: AbortSignal
}

const live = new Map<string, { lectureId: string, abort: AbortController }>()

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

/** What becomes of a job that was cut off. */
function cutOffWords(job: JobRow): string {
  if (job.again) return 'It was started again.'
  if (job.kind === 'analyse') return 'It goes on where it was.'
  return job.kind === 'settle' ? 'It was started again.' : 'Nothing was lost; start it again.'
}

export const useJobs = defineStore('jobs', () => {
  /**
   * Runs a job. `more` says how it is started anew should the page be closed meanwhile, and whether the person waits for it. Resolves with what `run` gives; rejects with JobCancelled or with what went wrong, which the
   * job's row then says too.
   */
  async function start<T>(kind: JobRow['kind'], lectureId: string, says: string, run: (context: JobContext) => Promise<T>, more: Pick<JobRow, 'again' | 'awaited'> = {}): Promise<T> {
    const id = newId()
    const abort = new AbortController()
    live.set(id, { lectureId, abort })
    const scratch = `job-${id}`
    let worker: Worker | undefined
    let engine: Remote<Engine> | undefined
    const cancelled = new Promise<never>((_, reject) => abort.signal.addEventListener('abort', () => reject(new JobCancelled('Cancelled.'))))
    cancelled.catch(() => undefined)
    return navigator.locks.request(scratch, async () => {
      await db.jobs.put({ id, lectureId, kind, state: 'running', progress: 0, says, startedAt: nowInstant(), ...more })
      try {
        worker = new Worker(new URL('../../media/worker.ts', import.meta.url), { type: 'module' })
        engine = wrap<Engine>(worker)
        const crashed = new Promise<never>((_, reject) => worker?.addEventListener('error', (e) => reject(new Error(e.message || 'The media worker could not be started.'))))
        crashed.catch(() => undefined)
        const context: JobContext = {
          engine,
          scratch,
          signal: abort.signal,
          progress: (share, what) => void db.jobs.update(id, { progress: share, ...(what && { says: what }) }),
        }
        const value = await Promise.race([run(context), cancelled, crashed])
        await db.jobs.update(id, { state: 'done', progress: 1 })
        return value
      } catch (error) {
        const message = error instanceof Error ? error.message : String(error)
        await db.jobs.update(id, error instanceof JobCancelled ? { state: 'cancelled' } : { state: 'failed', says: message })
        throw error
      } finally {
        engine?.[releaseProxy]()
        worker?.terminate()
        live.delete(id)
        await sweep(scratch)
      }
    })
  }

  function cancel(id: string): void {
    live.get(id)?.abort.abort()
  }

  /** Cancels the jobs of a lecture that is to be deleted, and waits until they have let go of it. */
  async function cancelOf(lectureId: string): Promise<void> {
    const ids = [...live].filter(([, job]) => job.lectureId === lectureId).map(([id]) => id)
    ids.forEach(cancel)
    await Promise.all(ids.map((id) => navigator.locks.request(`job-${id}`, () => undefined)))
  }

  /**
   * At the app's start: jobs that a reload cut off are said to be, and what they had begun to write is removed.
   * @returns those that are to be started again
   */
  async function tidyUp(): Promise<JobRow[]> {
    const cutOff: JobRow[] = []
    for (const job of await db.jobs.where('state').equals('running').toArray())
      await navigator.locks.request(`job-${job.id}`, { ifAvailable: true }, async (lock) => {
        if (!lock) return
        await db.jobs.update(job.id, { state: 'failed', says: `Cut off when the page was closed. ${cutOffWords(job)}` })
        await sweep(`job-${job.id}`)
        if (job.again) cutOff.push(job)
      })
    const old = (await db.jobs.orderBy('id').toArray()).sort((a, b) => b.startedAt.localeCompare(a.startedAt)).slice(50)
    await db.jobs.bulkDelete(old.filter((j) => j.state !== 'running').map((j) => j.id))
    return cutOff
  }

  return { start, cancel, cancelOf, tidyUp }
})
