/** Finishes: kept in this browser, saved as files, and put on many lectures as one job. */
import { fieldsOf, putFinish, readFinish } from '#core/edit/finish'
import { proposeFromTrack } from '#core/captions/propose-word-cuts'
import { joinSlides, joinSound, takeAt } from '#core/record/recording'
import type { Finish } from '#core/schema/finish'
import { sayCount } from '#core/text/words'
import { errorMessage } from '#core/text/error-message'
import dayjs from 'dayjs'
import { db, type FinishReport, type JobRow } from '~/db/database'
import { readFile, storing } from '~/db/files'
import { JobCancelled, type useJobs } from '~/stores/jobs'
import { download, fileName } from '~/utils/download'
import { openZip, zipFiles } from '~/utils/zip'
import { addAsset, assetsFor, releaseAssets, shareAssets } from './assets'
import { changeLecture } from './cards'
import { storeDocument } from './documents'
import { documentOf } from './fingerprint'
import { newId, nowInstant } from './ids'
import { loadCheckedParts } from './lectures'
import { lookedThrough } from './takes'

type Jobs = ReturnType<typeof useJobs>

export const finishes = async (): Promise<Finish[]> =>
  (await db.finishes.toArray()).sort((a, b) => a.name.localeCompare(b.name) || a.id.localeCompare(b.id))

export const storeFinish = (finish: Finish): Promise<unknown> => storing(() => db.finishes.put(finish))

/** Deletes a finish. What it was put on stays as it is. */
export const deleteFinish = (id: string): Promise<void> =>
  db.transaction('rw', [db.finishes, db.assets, db.files, db.chunks], async () => {
    await db.finishes.delete(id)
    await releaseAssets(id)
  })

/** How the files of a saved finish are called. */
const DOCUMENT = 'finish.json'
const mark = (name: string) => `mark-${name.replace(/[^\w.-]+/g, '-')}`

/** Saves a finish as a file: JSON, in an archive with its mark where it has one. @returns what the file is called */
export async function saveFinish(finish: Finish): Promise<string> {
  const asset = finish.watermark && (await db.assets.get(finish.watermark.file))
  const picture = asset && (await readFile(asset.hash))
  const name = `${fileName(finish.name)}.finish`
  const text = (saved: Finish) => new Blob([JSON.stringify(saved, null, 2), '\n'])
  if (!finish.watermark || !asset || !picture) {
    download(`${name}.json`, 'application/json', text(finish))
    return `${name}.json`
  }
  const file = mark(asset.name)
  const saved = { ...finish, watermark: { ...finish.watermark, file } }
  const files = [
    { name: DOCUMENT, data: text(saved) },
    { name: file, data: picture },
  ]
  download(`${name}.zip`, 'application/zip', await zipFiles(files))
  return `${name}.zip`
}

/**
 * Opens a saved finish as one of this browser's.
 * @returns its id
 * @throws {Error} with a sentence, or JobCancelled; nothing is kept of it then
 */
export async function openFinish(file: File, jobs: Jobs): Promise<string> {
  const isZip = (await file.slice(0, 2).text()) === 'PK'
  const zip = isZip ? await openZip(file) : null
  let data: unknown
  try {
    data = JSON.parse(await (zip ? await zip.read(DOCUMENT) : file).text())
  } catch (cause) {
    throw new Error(`“${file.name}” is no finish: it holds no JSON.`, { cause })
  }
  const read = readFinish(data)
  const finish = { ...read, id: newId() }
  if (!finish.watermark) {
    await storeFinish(finish)
    return finish.id
  }
  if (!zip) throw new Error(`The mark “${finish.watermark.file}” is missing; open the archive that it was saved in.`)
  const picture = new File([await zip.read(finish.watermark.file)], finish.watermark.file, {
    type: `image/${/\.(\w+)$/.exec(finish.watermark.file)?.[1]?.replace('jpg', 'jpeg') ?? 'png'}`,
  })
  await storeFinish({ ...finish, watermark: null })
  try {
    const { hash } = await addAsset(picture, finish.id, jobs)
    await storeFinish({ ...finish, watermark: { ...finish.watermark, file: hash } })
    return finish.id
  } catch (error) {
    await deleteFinish(finish.id)
    throw error
  }
}

/** Puts a finish on one lecture that is looked through. @throws {Error} with a sentence */
async function putOnLecture(finish: Finish, lectureId: string): Promise<FinishReport> {
  const parts = await loadCheckedParts(lectureId)
  if (!parts) return { lectureId, title: 'A deleted lecture', did: [], look: ['It is not there any more.'] }
  const { lecture, recording } = parts
  const edit = documentOf(parts, 'edit')
  const report = { lectureId, title: lecture.title }
  if (!recording || !edit) return { ...report, did: [], look: ['Nothing is recorded yet.'] }
  const rows = (await db.analyses.bulkGet(recording.takes.map((t) => t.id))).flatMap((row) => row ?? [])
  const found = new Map(rows.map((row) => [row.takeId, row]))
  const sound = joinSound(recording, found)
  const captions = documentOf(parts, 'captions')
  const said = proposeFromTrack(captions, recording.duration).filter((cut) => {
    const take = takeAt(recording, cut.from)
    return !found.get(take.id)?.left?.some((t) => Math.abs(t - (cut.from - take.from)) < 1e-6)
  })
  const seen = recording.takes.flatMap((take) => (found.get(take.id)?.slides ?? []).map((at) => at + take.from))
  const started = parts.takes.find((t) => t.state === 'whole')?.startedAt
  const course = (await db.courses.get(lecture.courseId)) ?? null
  const before = documentOf(parts, 'chapters')
  const done = putFinish(
    finish,
    {
      fields: fieldsOf(lecture, course, started ? dayjs(started).format('D MMMM YYYY') : ''),
      edit,
      chapters: before,
      others: { captions, links: documentOf(parts, 'links'), questions: documentOf(parts, 'questions') },
      proposals: [...sound.proposals, ...said],
      slides: joinSlides(recording, seen),
      hasSound: recording.feeds.some((f) => f.kind === 'sound'),
      clipped: sound.clipping.length,
    },
    newId,
  )
  const doing = { says: `Put on the finish “${finish.name}”`, doneAt: nowInstant() }
  await storing(() =>
    changeLecture(lectureId, async () => {
      if (finish.watermark) await shareAssets([finish.watermark.file], lectureId)
      await storeDocument(lectureId, 'edit', edit, done.edit, doing)
      if (done.chapters && done.chapters !== before)
        await storeDocument(lectureId, 'chapters', before, done.chapters, doing)
    }, [db.assets, db.files]),
  )
  if (parts.release) done.look.push('Students do not see this until it is published again.')
  return { ...report, did: done.did, look: done.look }
}

/**
 * Puts a finish on lectures, one after the other, as a step of each document’s history. One that cannot be done is told in
 * the report, and the others go on.
 * @param replaces a job that was cut off, with what came of it until then
 * @returns what came of each
 * @throws {JobCancelled} between two lectures; those that are done stay so
 */
export function putFinishOn(
  finishId: string,
  lectureIds: readonly string[],
  jobs: Jobs,
  replaces?: Pick<JobRow, 'id' | 'report'>,
): Promise<FinishReport[]> {
  const before = replaces?.report ?? []
  const restart = { do: 'finish' as const, finishId, lectureIds: [...lectureIds] }
  return jobs.start(
    'finish',
    lectureIds.length === 1 ? (lectureIds[0] ?? '') : '',
    'Putting on a finish',
    async ({ progress, signal, tell }) => {
      const finish = await db.finishes.get(finishId)
      if (!finish) throw new Error('This finish is not there any more.')
      const report = [...before]
      for (const [i, lectureId] of lectureIds.entries()) {
        if (signal.aborted) throw new JobCancelled('Cancelled.')
        const title = (await db.lectures.get(lectureId))?.title ?? ''
        progress(i / lectureIds.length, `“${finish.name}” on ${i + 1} of ${lectureIds.length}: ${title}`)
        try {
          await lookedThrough(lectureId, jobs)
          report.push(await putOnLecture(finish, lectureId))
        } catch (error) {
          report.push({ lectureId, title, did: [], look: [errorMessage(error)] })
        }
        await tell({ report: [...report], restart: { ...restart, lectureIds: lectureIds.slice(i + 1) } })
      }
      const look = report.filter((r) => r.look.length > 0).length
      const said = `“${finish.name}” is on ${sayCount(report.filter((r) => r.did.length > 0).length, 'lecture', 'lectures')}`
      progress(1, look > 0 ? `${said}; ${sayCount(look, 'needs', 'need')} a look` : said)
      return report
    },
    {
      restart,
      awaited: true,
      ...(before.length > 0 && { report: before }),
      ...(replaces && { replaces: replaces.id }),
    },
  )
}

/** The finish whose mark is `hash`, and its row, for showing it. */
export const markOf = async (finish: Finish) =>
  (await assetsFor(finish.id)).find((a) => a.hash === finish.watermark?.file) ?? null
