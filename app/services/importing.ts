/** Bringing in a video or sound file: looked at first, used where it is, and copied meanwhile. */
import { db, type FileRow } from '~/db/database'
import { giveBack, lend, readChunks, storeFile } from '~/db/files'
import type { Feed, Take } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import type { JobContext, useJobs } from '~/stores/jobs'
import { changeLecture } from './cards'
import { draftArrivals } from './captioning'
import { arrivalTables, noteArrival } from './heard'
import { newId, nowInstant } from './ids'
import { analyseTake, breakTake, placeTake, takeLock } from './takes'

/** A take of this lecture that waits for this very file. */
async function waitingFor(file: File, lectureId: string): Promise<Take | null> {
  const broken = await db.takes
    .where('lectureId')
    .equals(lectureId)
    .and((t) => t.state === 'broken' && t.source?.name === file.name && t.source.size === file.size)
    .first()
  return broken ?? null
}

const mayNotLeave = (event: BeforeUnloadEvent) => event.preventDefault()

/** Copies a file that is in use already; whoever closes the page meanwhile is asked first. */
async function copy(row: FileRow, data: Blob, { progress, signal }: JobContext): Promise<void> {
  addEventListener('beforeunload', mayNotLeave)
  try {
    await storeFile(row, data, (share) => progress(share, `Copying “${row.name}”`), signal)
    const stored = await readChunks(row.id)
    if (stored?.size !== data.size) throw new Error(`“${row.name}” could not be stored whole.`)
  } finally {
    removeEventListener('beforeunload', mayNotLeave)
  }
}

/**
 * Brings a file into a lecture; if it has a recording, the file goes on after it. If it can be used as it is, it is used
 * where it is while it is copied: this resolves before that, and what goes wrong with copying stands in the job's row
 * and in the take's.
 * @returns what a person should know besides that it worked; empty when nothing
 * @throws {Error} with a sentence; nothing is kept of the file then
 */
export async function bringIn(file: File, lectureId: string, jobs: ReturnType<typeof useJobs>): Promise<string> {
  let placed: (note: string) => void = () => undefined
  const usable = new Promise<string>((resolve) => (placed = resolve))
  const job = jobs.start('import', lectureId, `Bringing in “${file.name}”`, async (context) => {
    const { engine, scratch } = context
    const found = await engine.probe(file, file.name)
    const notes: string[] = [...found.remarks]
    if (!found.sound) notes.push(`“${file.name}” has no sound: there will be no waveform and nothing to caption.`)
    if (!found.picture) notes.push(`“${file.name}” has no picture; it is brought in as sound only.`)
    // Browsers write WebM without a length; a copy with an index can be moved about in.
    const data = found.statesDuration ? file : await engine.settle(file, scratch, [])
    const { type } = found.statesDuration ? found : await engine.probe(data, file.name)
    const name = found.statesDuration
      ? file.name
      : file.name.replace(/(\.[^.]*)?$/, /matroska/.test(type) ? '.mkv' : '.mp4')
    const fileId = newId()
    const common = { fileId, offset: 0, duration: found.duration }
    const feeds: Feed[] = []
    if (found.picture)
      feeds.push({
        ...common,
        id: 'screen',
        kind: 'screen',
        label: 'Picture',
        width: found.picture.width,
        height: found.picture.height,
        frameRate: found.picture.frameRate,
      })
    if (found.sound)
      feeds.push({ ...common, id: 'sound', kind: 'sound', label: 'Sound', width: 0, height: 0, frameRate: 0 })
    const waiting = await waitingFor(file, lectureId)
    const take: Take = {
      ...(waiting ?? { id: newId(), lectureId, startedAt: nowInstant(), pauses: [] }),
      state: 'whole',
      duration: found.duration,
      feeds,
      note: notes.join(' '),
      source: { name: file.name.slice(0, 300), size: file.size },
    }
    const row = { id: fileId, type, name, size: data.size }
    const place = async () => {
      // One that was there before keeps its place, and the edit that was made of it.
      const put = async () => {
        await (waiting ? db.takes.put(take) : placeTake(take))
        await noteArrival(take)
      }
      await changeLecture(lectureId, put, arrivalTables())
      placed(take.note)
    }
    // Runs beside it; what it finds appears on the desk when it is there.
    const lookThrough = () =>
      void analyseTake(take.id, jobs, true)
        .then(() => draftArrivals(jobs))
        .catch((error: unknown) => console.error('analysis', error))
    if (data !== file) {
      // What was made anew is gone when the job has ended.
      await copy(row, data, context)
      await place()
      lookThrough()
      return
    }
    await navigator.locks.request(takeLock(take.id), async () => {
      lend(fileId, data)
      try {
        await place()
        // Before the disk is busy with the copy.
        const coarse = found.sound && (await engine.coarsePeaks(data))
        if (coarse) await db.peaks.put({ takeId: take.id, levels: [], coarse })
        lookThrough()
        await copy(row, data, context)
      } catch (error) {
        await breakTake(take.id, context.signal.aborted ? 'Copying was stopped.' : errorMessage(error))
        throw error
      } finally {
        giveBack(fileId)
      }
    })
  })
  job.catch(() => undefined)
  return Promise.race([usable, job.then(() => usable)])
}
