/** A take from its first chunk to a whole, analysed recording; also what a crash left behind. */
import { proxy } from 'comlink'
import { max, range } from 'd3-array'
import { db, type AnalysisRow } from '~/db/database'
import { readChunks, readFile, removeFile, storeFile } from '~/db/files'
import type { EditCommand } from '#core/schema/edit-command'
import type { Feed, Take } from '#core/schema/lecture'
import { apply, describe, lengthen, newEdit } from '#core/edit/edit'
import { joinTakes, selectFeed, pictureOf, placeAfter } from '#core/record/recording'
import type { PeakLevel } from '#core/sound/peaks'
import { sayDuration } from '#core/time/timecode'
import { recorded, type RecordedRange } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import type { Thumbnail } from '#media/analyse/picture'
import type { JobContext, useJobs } from '~/stores/jobs'
import { dropBallast } from './ballast'
import { changeLecture, takesOf } from './cards'
import { documentRow, storeDocument } from './documents'
import { arrivalTables, noteArrival } from './heard'
import { newId, nowInstant } from './ids'

type Jobs = ReturnType<typeof useJobs>

export const takeLock = (takeId: string): string => `take-${takeId}`
/** Held (shared) while something is recorded: the machine is then left to that. */
export const RECORDING = 'recording'

/** Removes a take for good, with all that was found out about it, and the files that no other take has. */
export async function removeTake(take: Take): Promise<void> {
  await db.transaction(
    'rw',
    [db.takes, db.files, db.chunks, db.peaks, db.analyses, db.heard, db.stills, db.quiets, db.backdrops],
    async () => {
      const own = new Set(take.feeds.map((f) => f.fileId))
      const others = await db.takes.filter((t) => t.id !== take.id && t.feeds.some((f) => own.has(f.fileId))).toArray()
      const shared = new Set(others.flatMap((t) => t.feeds.map((f) => f.fileId)))
      for (const fileId of own) if (!shared.has(fileId)) await removeFile(fileId)
      await db.peaks.delete(take.id)
      await db.analyses.delete(take.id)
      await db.heard.delete(take.id)
      await db.quiets.delete(take.id)
      await db.backdrops.delete(take.id)
      await db.stills.where('takeId').equals(take.id).delete()
      await db.takes.delete(take.id)
    },
  )
}

/** Gives a take to another lecture too, with all that was found out about it. To be called inside a change of that. */
export async function copyTake(take: Take, lectureId: string): Promise<void> {
  const takeId = newId()
  await db.takes.put({ ...take, id: takeId, lectureId })
  const peaks = await db.peaks.get(take.id)
  if (peaks) await db.peaks.put({ ...peaks, takeId })
  const analysis = await db.analyses.get(take.id)
  if (analysis) await db.analyses.put({ ...analysis, takeId })
  const stills = await db.stills.where('takeId').equals(take.id).toArray()
  await db.stills.bulkPut(stills.map((still) => ({ ...still, takeId })))
}

/** How long a discarded take can be brought back, h. */
const DISCARDED_FOR = 24

/** The recordings of a lecture that were discarded and can still be brought back, latest first. */
export async function discardedTakes(lectureId: string): Promise<Take[]> {
  const takes = await db.takes
    .where('lectureId')
    .equals(lectureId)
    .and((t) => t.state === 'discarded')
    .toArray()
  return takes.sort((a, b) => (b.discardedAt ?? '').localeCompare(a.discardedAt ?? ''))
}

/** Discards a recording of so many seconds; for a day it can be brought back. */
export async function discardTake(takeId: string, seconds: number): Promise<void> {
  const take = await db.takes.get(takeId)
  if (!take) return
  const discarded = { state: 'discarded' as const, duration: seconds, discardedAt: nowInstant() }
  await changeLecture(take.lectureId, () => db.takes.update(takeId, discarded))
}

/** Removes what was discarded more than a day ago. */
async function sweepDiscarded(): Promise<void> {
  const before = new Date(Date.now() - DISCARDED_FOR * 3_600_000).toISOString()
  for (const take of await db.takes.where('state').equals('discarded').toArray())
    if ((take.discardedAt ?? '') < before) await removeTake(take)
}

/**
 * Frame rate of the picture whose frames the edit's edges snap to: the camera moves most, so its grid is the finest.
 */
export function editFrameRate(feeds: readonly Feed[]): number {
  return max(feeds, (f) => f.frameRate) ?? 0
}

/**
 * Puts a take that is whole now at the end of its lecture: the edit grows by it, its pauses are folded and what was
 * drawn lies over it. To be called inside a change of its lecture.
 */
export async function placeTake(take: Take): Promise<void> {
  const before = joinTakes((await takesOf(take.lectureId)).filter((t) => t.id !== take.id))
  const known = (await documentRow(take.lectureId, 'edit'))?.document ?? null
  const at = before ? placeAfter(before.duration, known?.frameRate ?? 0) : recorded(0)
  const here = (t: number) => recorded(at + Math.min(t, take.duration))
  const commands: EditCommand[] = []
  for (const pause of take.pauses) {
    const [from, to] = [here(pause.from), here(pause.to ?? take.duration)]
    if (to - from > 0.05) commands.push({ do: 'remove', id: newId(), from, to, reason: 'pause' })
  }
  const strokes = (take.strokes ?? []).filter((s) => (s.points[0]?.at ?? Infinity) < take.duration)
  if (strokes.length) {
    const what = { kind: 'strokes' as const, strokes }
    commands.push({ do: 'stretch', id: newId(), from: here(0), to: here(take.duration), what })
  }
  await db.takes.put({ ...take, state: 'whole', ...(before && { at }) })
  // That the recording is longer now is no step that could be undone.
  const longer =
    before && known ? lengthen(known, here(take.duration)) : newEdit(here(take.duration), editFrameRate(take.feeds))
  let edit = await storeDocument(take.lectureId, 'edit', known, longer, { says: '' })
  for (const command of commands)
    edit = await storeDocument(take.lectureId, 'edit', edit, apply(edit, command), { says: describe(command) })
}

async function settleFeed(feed: Feed, takeId: string, { engine, scratch }: JobContext): Promise<Feed | null> {
  const chunks = await readChunks(feed.fileId)
  if (!chunks) return null
  const { clock = [], ...kept } = feed
  const whole = await engine.settle(chunks, scratch, feed.kind === 'sound' ? clock : [])
  const found = await engine.probe(whole, feed.label)
  const fileId = newId()
  await storeFile(
    { id: fileId, type: found.type, name: `${takeId}-${feed.kind}.mp4`, size: whole.size },
    whole,
    () => undefined,
  )
  return {
    ...kept,
    fileId,
    duration: found.duration,
    width: found.picture?.width ?? 0,
    height: found.picture?.height ?? 0,
  }
}

/**
 * Makes whole files of a recorded take, puts it at the end of its lecture, and hands it on to analysis.
 * @param wasCutOff whether nobody ended it; then it is told how much of it is there
 */
export async function settleTake(take: Take, jobs: Jobs, wasCutOff = false): Promise<void> {
  await changeLecture(take.lectureId, () => db.takes.update(take.id, { state: 'settling' }))
  // Takes of one lecture are made whole in the order in which they were recorded, and so stand in it.
  await navigator.locks.request(`settle-${take.lectureId}`, () => makeWhole(take, jobs, wasCutOff))
  await analyseTake(take.id, jobs, true)
}

async function makeWhole(take: Take, jobs: Jobs, wasCutOff: boolean): Promise<void> {
  // Another tab may have done so meanwhile.
  if ((await db.takes.get(take.id))?.state !== 'settling') return
  await jobs.start(
    'settle',
    take.lectureId,
    'Making the recording ready',
    async (context) => {
      const settled: Feed[] = []
      const trouble: string[] = []
      for (const [i, feed] of take.feeds.entries()) {
        try {
          const whole = await settleFeed(feed, take.id, context)
          if (whole) settled.push(whole)
          else trouble.push(`${feed.label}: nothing was recorded.`)
        } catch (error) {
          trouble.push(`${feed.label}: ${errorMessage(error)}`)
        }
        context.progress((i + 1) / take.feeds.length)
      }
      if (settled.length === 0) {
        const broken = { state: 'broken' as const, note: trouble.join(' ') }
        await changeLecture(take.lectureId, () => db.takes.update(take.id, broken))
        throw new Error(`The recording could not be opened. ${trouble.join(' ')}`)
      }
      const duration = max(settled, (f) => f.offset + f.duration) ?? -Infinity
      // One transaction: either the whole files count, or the chunks still do.
      const note = [take.note, ...trouble].filter(Boolean).join(' ')
      const place = async () => {
        const whole = { ...take, feeds: settled, duration, note }
        await placeTake(whole)
        await noteArrival(whole)
        for (const feed of take.feeds) await removeFile(feed.fileId)
      }
      await changeLecture(take.lectureId, place, [db.chunks, db.files, ...arrivalTables()])
      context.progress(
        1,
        `${sayDuration(duration)} ${wasCutOff ? 'of a recording that was cut off are there' : 'are ready'}`,
      )
    },
    { awaited: wasCutOff },
  )
}

/** Thumbnails along the whole of a take. Zoomed in, more are made for what is seen. */
const THUMBNAILS = 60

/**
 * Looks a take through: a still for its card, the sound, thumbnails, slides. Each pass is kept as soon as it is made,
 * so that one which was cut off goes on with the next.
 * @param awaited whether the person is told when it is done
 */
export async function analyseTake(takeId: string, jobs: Jobs, awaited = false): Promise<void> {
  const take = await db.takes.get(takeId)
  if (!take) return
  await jobs.start(
    'analyse',
    take.lectureId,
    'Drawing the waveform',
    async ({ engine, progress }) => {
      const known: AnalysisRow = (await db.analyses.get(takeId)) ?? { takeId }
      // Added to what is there: meanwhile a person may have decided on proposals.
      const keep = (found: Partial<AnalysisRow>) =>
        db.transaction(
          'rw',
          db.analyses,
          async () => void (await db.analyses.put({ ...(await db.analyses.get(takeId)), ...found, takeId })),
        )
      const screen = take.feeds.find((f) => f.kind === 'screen')
      const picture = pictureOf(take.feeds)
      const pictureFile = picture && (await readFile(picture.fileId))
      const sound = take.feeds.find((f) => f.kind === 'sound')
      const soundFile = sound && (await readFile(sound.fileId))
      if (picture && pictureFile && !(await db.posters.get(take.lectureId)))
        await db.posters.put({
          lectureId: take.lectureId,
          image: await engine.poster(pictureFile, Math.min(5, picture.duration / 3)),
        })
      if (sound && soundFile && !known.sound) {
        // Of a long one something is shown at once, which the pass below puts right as it comes.
        const coarse = (await db.peaks.get(takeId))?.coarse ?? (await engine.coarsePeaks(soundFile))
        if (coarse) await db.peaks.put({ takeId, levels: [], coarse })
        const { peaks, ...found } = await engine.analyseSound(
          soundFile,
          proxy((share: number, levels: PeakLevel[] | null) => {
            progress(0.3 * share)
            if (levels) void db.peaks.put({ takeId, levels, ...(coarse && { coarse }) })
          }),
        )
        await db.peaks.put({ takeId, levels: peaks })
        const shift = <R extends RecordedRange>(r: R): R => ({
          ...r,
          from: recorded(r.from + sound.offset),
          to: recorded(r.to + sound.offset),
        })
        // Sound often ends a little before the picture; what is cut off the end reaches to the end of both.
        const proposals = found.proposals
          .map(shift)
          .map((p) => (p.reason === 'end' ? { ...p, to: recorded(take.duration) } : p))
        await keep({
          sound: { ...found, silences: found.silences.map(shift), clipping: found.clipping.map(shift), proposals },
        })
      }
      if (!sound) await db.peaks.put({ takeId, levels: [] })
      if (picture && pictureFile && !known.thumbnails) {
        progress(0.3, 'Making thumbnails')
        const step = picture.duration / THUMBNAILS
        const film = await engine.openFilm(pictureFile)
        await film.thumbnails(
          range(THUMBNAILS).map((i) => i * step),
          step / 2,
          proxy(
            ({ at, image }: Thumbnail) =>
              void db.stills.put({ takeId, kind: 'thumbnail', at: at + picture.offset, image }),
          ),
        )
        await film.close()
        await keep({ thumbnails: true })
      }
      // A file that was brought in may be a film of a speaker; slides are looked for where slides were shown.
      const screenFile = screen && (await readFile(screen.fileId))
      if (screen && screenFile && !known.slides) {
        progress(0.4, 'Looking for slides')
        const found = await engine.slides(
          screenFile,
          proxy((share: number) => progress(0.4 + 0.6 * share)),
        )
        await db.stills.bulkPut(
          found.map(({ at, still }) => ({ takeId, kind: 'slide' as const, at: at + screen.offset, image: still })),
        )
        await keep({ slides: found.map((s) => s.at + screen.offset) })
      }
      await keep({})
      progress(1, 'Looked through')
    },
    { awaited },
  )
}

/**
 * Lets students see (or hear) this feed of a whole take instead of the one of its kind that they do now. What was found
 * out about that one is dropped and looked for anew; the edit and the captions stay, as all feeds of a take share its
 * time.
 * @throws {Error} with a sentence when that cannot be done now
 */
export async function showFeed(takeId: string, feed: Pick<Feed, 'fileId' | 'kind'>, jobs: Jobs): Promise<void> {
  const lectureId = (await db.takes.get(takeId))?.lectureId ?? ''
  const take = await changeLecture(lectureId, async () => {
    const before = await db.takes.get(takeId)
    const feeds = before?.state === 'whole' && selectFeed(before.feeds, feed)
    if (!feeds) throw new Error('This feed is not there any more.')
    const looking = await db.jobs
      .where('lectureId')
      .equals(before.lectureId)
      .and((j) => j.kind === 'analyse' && j.state === 'running')
      .count()
    if (looking)
      throw new Error('The recording is still being looked through. Choose when that is done; nothing was changed.')
    const take = { ...before, feeds }
    await db.takes.put(take)
    const isOther = (find: (all: readonly Feed[]) => Feed | undefined) =>
      find(before.feeds)?.fileId !== find(feeds)?.fileId
    const { sound, left, thumbnails, slides } = (await db.analyses.get(takeId)) ?? {}
    if (isOther((all) => all.find((f) => f.kind === 'sound'))) {
      await db.peaks.delete(takeId)
      await db.analyses.put({ takeId, thumbnails, slides })
    }
    if (isOther(pictureOf)) {
      await db.stills.where('takeId').equals(takeId).delete()
      await db.analyses.put({ takeId, sound, left })
      if (!take.at) await db.posters.delete(take.lectureId)
    }
    return take
  }, [db.jobs, db.peaks, db.analyses, db.stills, db.posters])
  waiting.delete(takeId)
  if (await isUnseen(take)) void settled(analyseTake(takeId, jobs, true))
}

/** Whether something of a take is still to be looked through. */
async function isUnseen(take: Take): Promise<boolean> {
  const known = await db.analyses.get(take.id)
  const has = (kind: Feed['kind']) => take.feeds.some((f) => f.kind === kind)
  return (
    !known ||
    (has('sound') && !known.sound) ||
    ((has('screen') || has('camera')) && !known.thumbnails) ||
    (has('screen') && !known.slides)
  )
}

/**
 * A take that was brought in and could not be copied whole: it waits for its file to be brought in again, and so does
 * what was done to it. What there is of the file goes.
 */
export async function breakTake(takeId: string, why: string): Promise<void> {
  const lectureId = (await db.takes.get(takeId))?.lectureId
  if (lectureId === undefined) return
  const end = async () => {
    const take = await db.takes.get(takeId)
    // Another tab may have copied it to the end meanwhile.
    const stored = await db.files.bulkGet(take?.feeds.map((f) => f.fileId) ?? [])
    if (take?.state !== 'whole' || stored.every(Boolean)) return
    const note = `${why} Bring “${take.source?.name ?? 'the file'}” in again to go on; what you did to it is kept.`
    await db.takes.put({ ...take, state: 'broken', note })
    for (const { fileId } of take.feeds) await removeFile(fileId)
  }
  await changeLecture(lectureId, end, [db.files, db.chunks])
}

/**
 * At the app's start: takes whose tab died are settled from the chunks they left, and whole takes that were not
 * analysed are. A take that is being recorded in another tab holds its lock and is left alone.
 * @returns the takes that were cut off, for saying so
 */
export async function recoverTakes(jobs: Jobs, onFound: (take: Take) => void): Promise<void> {
  await sweepDiscarded()
  for (const take of await db.takes.where('state').anyOf('recording', 'settling').sortBy('startedAt'))
    await navigator.locks.request(takeLock(take.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return
      onFound(take)
      await dropBallast()
      await settled(
        settleTake(
          {
            ...take,
            note:
              take.state === 'recording'
                ? 'The page was closed while recording; everything up to the last second was kept.'
                : take.note,
          },
          jobs,
          true,
        ),
      )
    })
  const whole = await db.takes.where('state').equals('whole').toArray()
  const stored = new Set(await db.files.toCollection().primaryKeys())
  for (const take of whole)
    if (take.source && !take.feeds.every((f) => stored.has(f.fileId)))
      await navigator.locks.request(takeLock(take.id), { ifAvailable: true }, async (lock) => {
        if (lock) await breakTake(take.id, 'The page was closed before it was copied whole.')
      })
    else if (await isUnseen(take)) waiting.add(take.id)
  void settled(analyseNow([...opened], jobs))
  for (const takeId of waiting) {
    await navigator.locks.request(RECORDING, () => undefined)
    waiting.delete(takeId)
    await settled(analyseTake(takeId, jobs))
  }
}

/** Waits for the work on one take. What goes wrong with it stands in its job's row, and the others go on. */
const settled = (work: Promise<void>): Promise<unknown> => Promise.allSettled([work])

/** Has the takes of a lecture looked through, whoever has begun to, and waits for that. */
export async function lookedThrough(lectureId: string, jobs: Jobs): Promise<void> {
  const looking = await db.jobs
    .where('lectureId')
    .equals(lectureId)
    .and((j) => j.kind === 'analyse' && j.state === 'running')
    .toArray()
  for (const { id } of looking) await navigator.locks.request(`job-${id}`, () => undefined)
  for (const take of await takesOf(lectureId))
    if (take.state === 'whole' && (await isUnseen(take))) {
      waiting.delete(take.id)
      await analyseTake(take.id, jobs)
    }
}

/** Takes that still wait to be looked through, one after the other. */
const waiting = new Set<string>()
let opened: readonly string[] = []

/** Looks takes through at once, if they wait or come to wait behind others: a person has opened them. */
export async function analyseNow(takeIds: readonly string[], jobs: Jobs): Promise<void> {
  opened = takeIds
  for (const takeId of takeIds) if (waiting.delete(takeId)) await analyseTake(takeId, jobs)
}
