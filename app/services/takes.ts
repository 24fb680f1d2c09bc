/** A take from its first chunk to a whole, analysed recording; also what a crash left behind. */
import { proxy } from 'comlink'
import { db } from '~/db/database'
import { readFile, removeFile, storeFile } from '~/db/files'
import type { Feed, Take } from '#core/schema/lecture'
import { apply, newEdit } from '#core/edit/edit'
import { recorded } from '#core/time/units'
import type { JobContext, useJobs } from '~/stores/jobs'
import { newId } from './ids'

type Jobs = ReturnType<typeof useJobs>

export const takeLock = (takeId: string): string => `take-${takeId}`

/** The take of a lecture, if it has one. */
export function takeOf(lectureId: string): Promise<Take | undefined> {
  return db.takes.where('lectureId').equals(lectureId).first()
}

/** Frame rate of the picture whose frames the edit's edges snap to: the camera moves most, so its grid is the finest. */
export function editFrameRate(feeds: readonly Feed[]): number {
  return Math.max(0, ...feeds.map((f) => f.frameRate))
}

async function settleFeed(feed: Feed, takeId: string, { engine, scratch }: JobContext): Promise<Feed | null> {
  const chunks = await readFile(feed.fileId)
  if (!chunks) return null
  const whole = await engine.settle(chunks, scratch)
  const found = await engine.probe(whole, feed.label)
  const fileId = newId()
  await storeFile({ id: fileId, type: found.type, name: `${takeId}-${feed.kind}`, size: whole.size }, whole, () => undefined)
  return { ...feed, fileId, duration: found.duration, width: found.picture?.width ?? 0, height: found.picture?.height ?? 0 }
}

/** Makes whole files of a recorded take, folds its pauses, and hands it on to analysis. */
export async function settleTake(take: Take, jobs: Jobs): Promise<void> {
  await db.takes.update(take.id, { state: 'settling' })
  await jobs.start('settle', take.lectureId, 'Making the recording ready', async (context) => {
    const settled: Feed[] = []
    const trouble: string[] = []
    for (const [i, feed] of take.feeds.entries()) {
      try {
        const whole = await settleFeed(feed, take.id, context)
        if (whole) settled.push(whole)
        else trouble.push(`${feed.label}: nothing was recorded.`)
      } catch (error) {
        trouble.push(`${feed.label}: ${error instanceof Error ? error.message : String(error)}`)
      }
      context.progress((i + 1) / take.feeds.length)
    }
    if (settled.length === 0) {
      await db.takes.update(take.id, { state: 'broken', note: trouble.join(' ') })
      throw new Error(`The recording could not be opened. ${trouble.join(' ')}`)
    }
    const duration = Math.max(...settled.map((f) => f.offset + f.duration))
    let edit = newEdit(recorded(duration), editFrameRate(settled))
    for (const pause of take.pauses) {
      const from = Math.min(pause.from, duration)
      const to = Math.min(pause.to ?? duration, duration)
      if (to - from > 0.05) edit = apply(edit, { do: 'remove', id: newId(), from: recorded(from), to: recorded(to), reason: 'pause' })
    }
    // One transaction: either the whole files count, or the chunks still do.
    await db.transaction('rw', db.takes, db.edits, db.chunks, db.files, async () => {
      await db.takes.update(take.id, { state: 'whole', feeds: settled, duration, note: [take.note, ...trouble].filter(Boolean).join(' ') })
      await db.edits.put({ lectureId: take.lectureId, edit })
      for (const feed of take.feeds) await removeFile(feed.fileId)
    })
  })
  await analyseTake(take.id, jobs)
}

/** Peaks and a still for the card. */
export async function analyseTake(takeId: string, jobs: Jobs): Promise<void> {
  const take = await db.takes.get(takeId)
  if (!take) return
  await jobs.start('analyse', take.lectureId, 'Drawing the waveform', async ({ engine, progress }) => {
    const picture = take.feeds.find((f) => f.kind === 'screen') ?? take.feeds.find((f) => f.kind === 'camera')
    const pictureFile = picture && (await readFile(picture.fileId))
    if (picture && pictureFile) await db.posters.put({ lectureId: take.lectureId, image: await engine.poster(pictureFile, Math.min(5, picture.duration / 3)) })
    const sound = take.feeds.find((f) => f.kind === 'sound')
    const soundFile = sound && (await readFile(sound.fileId))
    const levels = soundFile ? await engine.computePeaks(soundFile, proxy((share: number) => progress(share))) : []
    await db.peaks.put({ takeId, levels })
  })
}

/**
 * At the app's start: takes whose tab died are settled from the chunks they left, and whole takes that were not
 * analysed are. A take that is being recorded in another tab holds its lock and is left alone.
 * @returns the takes that were cut off, for saying so
 */
export async function recoverTakes(jobs: Jobs, onFound: (take: Take) => void): Promise<void> {
  for (const take of await db.takes.where('state').anyOf('recording', 'settling').toArray())
    await navigator.locks.request(takeLock(take.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return
      onFound(take)
      await settleTake({ ...take, note: take.state === 'recording' ? 'The page was closed while recording; everything up to the last second was kept.' : take.note }, jobs)
    })
  for (const take of await db.takes.where('state').equals('whole').toArray())
    if (!(await db.peaks.get(take.id))) await analyseTake(take.id, jobs)
}
