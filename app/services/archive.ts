/**
 * A lecture as one archive: its recordings, pictures and videos, documents, history and revisions, which another browser
 * opens. Where it was published stays with the browser that did so.
 */
import { goTo } from '#core/documents/history'
import {
  documentId,
  documentName,
  kindOf,
  kinds,
  type DocumentName,
  type Documents,
  type Kind,
} from '#core/documents/kinds'
import { countWeeks } from '#core/course/term'
import { upgradeArchive } from '#core/course/upgrade'
import { LectureArchive, type ArchivedStep } from '#core/schema/archive'
import type { Lecture, Take } from '#core/schema/lecture'
import { parseAs } from '#core/schema/validate'
import { canonicalJson } from '#core/text/canonical-json'
import { db, type ContentRow, type RevisionRow, type StepRow } from '~/db/database'
import { readFile, storeFile, storing } from '~/db/files'
import { JobCancelled, type JobContext, type useJobs } from '~/stores/jobs'
import { download, fileName } from '~/utils/download'
import { openZip, zipFiles, type OpenZip } from '~/utils/zip'
import { assetsFor } from './assets'
import { changeLecture } from './cards'
import { newRow, stepsOf } from './documents'
import { sha256Text } from './fingerprint'
import { newId, nowInstant } from './ids'
import { loadCheckedParts } from './lectures'
import { revisionsOf } from './revisions'
import { analyseTake } from './takes'

type Jobs = ReturnType<typeof useJobs>

/** The part of an archive that says what is in it. */
const CONTENTS = 'lecture.json'
/** More than any lecture's documents take, bytes. */
const MOST = 256 << 20

/** A name for a file inside the archive that a person can read. */
function pathIn(folder: 'media' | 'assets', index: number, name: string): string {
  const [, stem = name, ending = ''] = /^(.*?)(\.[A-Za-z0-9]{1,8})?$/.exec(name) ?? []
  return `${folder}/${index + 1}-${fileName(stem)}${ending}`
}

/**
 * Saves a whole lecture.
 * @returns what the file is called
 * @throws {Error} with a sentence, or JobCancelled
 */
export const saveArchive = (lectureId: string, jobs: Jobs): Promise<string> =>
  jobs.start(
    'save',
    lectureId,
    'Saving the whole lecture',
    async ({ progress, signal }) => {
      const parts = await loadCheckedParts(lectureId)
      if (!parts) throw new Error('This lecture is not there any more.')
      const { lecture, takes, rows } = parts
      const course = await db.courses.get(lecture.courseId)
      const term = course && (await db.terms.get(course.termId))
      const whole = takes.filter((t) => t.state === 'whole')
      const data: { name: string; data: Blob }[] = []
      const files: LectureArchive['files'] = []
      for (const id of new Set(whole.flatMap((t) => t.feeds.map((f) => f.fileId)))) {
        const [row, blob] = await Promise.all([db.files.get(id), readFile(id)])
        if (!row || !blob) throw new Error('A file of the recording is not in this browser; it cannot be saved whole.')
        const path = pathIn('media', files.length, row.name)
        files.push({ id, path, name: row.name, type: row.type, size: blob.size })
        data.push({ name: path, data: blob })
      }
      const assets: LectureArchive['assets'] = []
      for (const { lectureIds: _, ...asset } of await assetsFor(lecture.id)) {
        const [row, blob] = await Promise.all([db.files.get(asset.hash), readFile(asset.hash)])
        if (!row || !blob) throw new Error(`“${asset.name}” is not in this browser; the lecture cannot be saved whole.`)
        const path = pathIn('assets', assets.length, asset.name)
        assets.push({ ...asset, path, type: row.type })
        data.push({ name: path, data: blob })
      }
      const documents = await Promise.all(
        rows
          .filter((row) => !row.unreadable)
          .map(async (row) => {
            const { id, document, applied } = row
            const kept = await stepsOf(id)
            const first = kept[0]?.seq ?? applied
            const steps = kept.map(({ documentId: _d, seq: _s, ...step }) => step as ArchivedStep)
            return { kind: documentName(row), document, steps, applied: applied - first }
          }),
      )
      const revisions = await revisionsOf(lecture.id)
      const contents = await db.contents.bulkGet([...new Set(revisions.flatMap((r) => r.hashes))])
      const analyses = await db.analyses.bulkGet(whole.map((t) => t.id))
      const archive: LectureArchive = {
        format: 'thaw-lecture',
        version: 2,
        madeAt: nowInstant(),
        stood: course && term ? { course, term } : null,
        lecture,
        takes: whole,
        files,
        assets,
        documents,
        revisions: revisions.map(({ name, madeAt, documents: says }) => ({ name, madeAt, documents: says })),
        contents: contents.flatMap((c) => c ?? []),
        left: analyses.flatMap((a) => (a?.left?.length ? { takeId: a.takeId, starts: a.left } : [])),
      }
      // What is written is what can be read: better now than when it is needed.
      const text = JSON.stringify(parseAs(LectureArchive, JSON.parse(JSON.stringify(archive)), 'lecture'), null, 1)
      const name = `${fileName(lecture.title)}.thaw.zip`
      const zip = await zipFiles([{ name: CONTENTS, data: new Blob([text]) }, ...data], progress, signal)
      download(name, 'application/zip', zip)
      return name
    },
    { awaited: true },
  )

/** What is kept of the history of a document: all of it, if it leads to states that can be read. */
function historyOf<K extends Kind>(kind: K, document: Documents[K], steps: ArchivedStep[], applied: number) {
  const history = { steps: steps as StepRow[], applied }
  try {
    if (applied > steps.length) return null
    for (const to of [0, steps.length]) kinds[kind].read(goTo(kinds[kind].lists, document, history, to).document)
    return history
  } catch {
    // Whatever is wrong with it, it is said by whoever asks, and the document is there without it.
    return null
  }
}

async function readContents(zip: OpenZip): Promise<LectureArchive> {
  const size = zip.sizeOf(CONTENTS)
  if (size === null) throw new Error('There is no lecture in this archive.')
  if (size > MOST) throw new Error('This archive says more than any lecture could.')
  const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
  let data: unknown
  try {
    data = JSON.parse(await (await zip.read(CONTENTS)).text())
  } catch (cause) {
    throw new Error(`“${CONTENTS}” in this archive cannot be read.`, { cause })
  }
  const archive = parseAs(LectureArchive, upgradeArchive(data, timeZone), 'archive')
  const known = new Set(archive.files.map((f) => f.id))
  for (const file of [...archive.files, ...archive.assets])
    if (zip.sizeOf(file.path) !== file.size) throw new Error(`“${file.path}” is missing in this archive, or cut short.`)
  if (!archive.takes.every((t) => t.state === 'whole' && t.feeds.every((f) => known.has(f.fileId))))
    throw new Error('A recording that this archive names is not in it.')
  return archive
}

/** What another browser saved, as it is stored here. */
interface Opened {
  takes: Take[]
  documents: { name: DocumentName; document: Documents[Kind]; steps: ArchivedStep[]; applied: number }[]
  revisions: Omit<RevisionRow, 'lectureId'>[]
  contents: ContentRow[]
  /** What could not be read, as sentences. */
  notes: string[]
}

/** Checks all that stands in an archive, and gives it ids of its own. @throws {InvalidDocument} */
function readArchive(archive: LectureArchive, fileIds: ReadonlyMap<string, string>): Opened {
  const notes: string[] = []
  const documents = archive.documents.map(({ kind: name, document: data, steps, applied }) => {
    const kind = kindOf(name as DocumentName)
    const document = kinds[kind].read(data)
    // The steps of another version are about what is not there any more.
    const isPresent = canonicalJson(document) === canonicalJson(data)
    const history = isPresent ? historyOf(kind, document, steps, applied) : null
    if (!history && steps.length > 0) notes.push(`What was done to its ${kind} before cannot be undone here.`)
    return { name: name as DocumentName, document, steps: history ? steps : [], applied: history ? applied : 0 }
  })
  if (new Set(documents.map((d) => d.name)).size < documents.length)
    throw new Error('This archive holds two documents of one name.')
  const contents = new Map(archive.contents.map((c) => [c.hash, c.document as Documents[Kind]]))
  for (const [hash, document] of contents)
    if (sha256Text(canonicalJson(document)) !== hash) throw new Error('A revision in this archive is damaged.')
  const revisions = archive.revisions.map(({ name, madeAt, documents: says }) => {
    for (const [name, hash] of Object.entries(says) as [DocumentName, string][])
      kinds[kindOf(name)].read(contents.get(hash))
    return { id: newId(), name, madeAt, documents: says, hashes: Object.values(says) }
  })
  const takes = archive.takes.map((take) => ({
    ...take,
    feeds: take.feeds.map((f) => ({ ...f, fileId: fileIds.get(f.fileId) ?? f.fileId })),
  }))
  const stored = [...contents].map(([hash, document]) => ({ hash, document }))
  return { takes, documents, revisions, contents: stored, notes }
}

/**
 * The course in which a lecture of an archive stands here: its own, one of the same code, or its own brought along, with
 * its term; none if it stood in none.
 */
async function placeIn({ stood, lecture }: LectureArchive): Promise<Pick<Lecture, 'courseId' | 'week'>> {
  if (!stood) return { courseId: '', week: lecture.week }
  const same = (await db.courses.toArray()).filter((c) => c.code === stood.course.code)
  const known = (await db.courses.get(stood.course.id)) ?? same.find((c) => !c.archived) ?? same[0]
  const term = (known && (await db.terms.get(known.termId))) ?? (await db.terms.get(stood.term.id)) ?? stood.term
  if (!known) {
    await db.terms.put(term)
    await db.courses.put(stood.course)
  }
  return { courseId: (known ?? stood.course).id, week: Math.min(lecture.week, countWeeks(term)) }
}

/** Stores the files of an archive; those that are kept here already are not stored once more. */
async function storeFiles(
  archive: LectureArchive,
  zip: OpenZip,
  fileIds: ReadonlyMap<string, string>,
  { progress, signal, engine }: JobContext,
): Promise<void> {
  const all = [...archive.files, ...archive.assets]
  const whole = all.reduce((sum, f) => sum + f.size, 0)
  let done = 0
  for (const file of all) {
    const { path, name, type, size } = file
    const id = 'hash' in file ? file.hash : (fileIds.get(file.id) ?? file.id)
    if (!(await db.files.get(id))) {
      const data = await zip.read(path)
      if (signal.aborted) throw new JobCancelled('Cancelled.')
      if ('hash' in file && (await engine.digest(data)) !== id) throw new Error(`“${path}” is not what it was.`)
      await storeFile({ id, type, name, size }, data, (share) => progress((done + share * size) / whole), signal)
    }
    done += size
  }
}

/**
 * Opens an archive as a lecture of this browser; beside the one that it was saved from, if that is here, as a copy.
 * @returns its id, and what a person should know besides that it worked; empty when nothing
 * @throws {Error} with a sentence, or JobCancelled; nothing is kept of it then
 */
export const openArchive = (file: File, jobs: Jobs): Promise<{ lectureId: string; note: string }> => {
  const wanted = newId()
  return jobs.start('import', wanted, `Opening “${file.name}”`, async (context) => {
    const zip = await openZip(file)
    try {
      const archive = await readContents(zip)
      const fileIds = new Map(archive.files.map((f) => [f.id, newId()]))
      const { takes, documents, revisions, contents, notes } = readArchive(archive, fileIds)
      await context.holds([...fileIds.values(), ...archive.assets.map((a) => a.hash)])
      await storeFiles(archive, zip, fileIds, context)
      const lectureId = (await db.lectures.get(archive.lecture.id)) ? wanted : archive.lecture.id
      const isCopy = lectureId === wanted
      const takeIds = new Map(takes.map((t) => [t.id, newId()]))
      const place = async (): Promise<void> => {
        if (!isCopy && (await db.lectures.get(lectureId)))
          throw new Error('This lecture was opened in another tab meanwhile.')
        const { title } = archive.lecture
        await db.lectures.put({
          ...archive.lecture,
          id: lectureId,
          ...(await placeIn(archive)),
          title: isCopy ? `${title} (from an archive)`.slice(0, 300) : title,
        })
        for (const take of takes) await db.takes.put({ ...take, id: takeIds.get(take.id) ?? newId(), lectureId })
        for (const { takeId, starts } of archive.left) {
          const id = takeIds.get(takeId)
          if (id) await db.analyses.put({ takeId: id, left: starts })
        }
        for (const { path: _, type: _t, ...asset } of archive.assets) {
          const others = (await db.assets.get(asset.hash))?.lectureIds ?? []
          if (!(await db.files.get(asset.hash))) throw new Error(`“${asset.name}” could not be kept; try again.`)
          await db.assets.put({ ...asset, lectureIds: [...new Set([...others, lectureId])] })
        }
        for (const { name: called, document, steps, applied } of documents) {
          const id = documentId(lectureId, called)
          await db.documents.put({ ...newRow(lectureId, called, document), applied })
          await db.steps.bulkPut(steps.map((step, seq) => ({ ...(step as StepRow), documentId: id, seq })))
        }
        await db.contents.bulkPut(contents)
        await db.revisions.bulkPut(revisions.map((r) => ({ ...r, lectureId })))
      }
      await storing(() =>
        changeLecture(lectureId, place, [
          db.terms,
          db.courses,
          db.files,
          db.assets,
          db.analyses,
          db.revisions,
          db.contents,
        ]),
      )
      // Runs beside it; what it finds appears on the desk when it is there.
      void lookThrough([...takeIds.values()], jobs).catch((error: unknown) => console.error('analysis', error))
      return { lectureId, note: notes.join(' ') }
    } finally {
      await zip.close()
    }
  })
}

async function lookThrough(takeIds: readonly string[], jobs: Jobs): Promise<void> {
  for (const takeId of takeIds) await analyseTake(takeId, jobs, true)
}
