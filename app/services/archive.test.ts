import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newTrack } from '#core/captions/track'
import { apply, newEdit } from '#core/edit/edit'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { readFile, storeFile } from '~/db/files'
import type { JobContext } from '~/stores/jobs'
import { openZip, zipFiles } from '~/utils/zip'
import { openArchive, saveArchive } from './archive'
import { loadParts } from './cards'
import { documentRow, goToStep, stepsOf, storeDocument } from './documents'
import { createLecture, deleteLecture } from './lectures'
import { bringBack, keepRevision, revisionsOf } from './revisions'
import { addAsset } from './assets'

const saved: { name: string; content: Blob }[] = []
vi.mock('~/utils/download', async (original) => ({
  ...(await original<object>()),
  download: (name: string, _type: string, content: Blob) => saved.push({ name, content }),
}))

const digest = async (data: Blob) =>
  Buffer.from(await crypto.subtle.digest('SHA-256', await data.arrayBuffer())).toString('hex')
const analysed: string[] = []
let held: string[] = []
/** Jobs without a worker. */
const jobs = (abort = new AbortController()) =>
  ({
    start: async (kind: string, of: string, _says: string, run: (context: JobContext) => Promise<unknown>) => {
      if (kind === 'analyse') return void analysed.push(of)
      held = []
      const engine = { digest, probe: () => ({ picture: { width: 4, height: 2 }, duration: 3, sound: null }) }
      return run({
        engine,
        scratch: 's',
        progress: () => undefined,
        signal: abort.signal,
        holds: (ids: string[]) => Promise.resolve(void held.push(...ids)),
      } as unknown as JobContext)
    },
  }) as unknown as Parameters<typeof saveArchive>[1]

let id = ''
const course = { id: 'ps201', code: 'PS 201', title: 'Glaciers', termId: 'term' }
const term = {
  ...{ id: 'term', name: 'Autumn', firstDay: '2026-11-02', lastDay: '2026-12-27' },
  ...{ holidays: [], timeZone: 'Europe/Oslo' },
}
const cue = (text: string) => ({ id: 'c', from: recorded(1), to: recorded(2), text })
async function make(): Promise<File> {
  await saveArchive(id, jobs())
  const { name, content } = saved.at(-1)!
  return new File([content], name)
}
/** What the tests change of an archive's contents. */
interface Contents {
  files: { path: string }[]
  assets: { path: string }[]
  documents: { kind: string; document: unknown; steps: { change: object }[] }[]
  revisions: object[]
  contents: { hash: string }[]
}
/** The archive with its contents changed. */
async function changed(file: File, change: (contents: Contents) => void): Promise<File> {
  const zip = await openZip(file)
  const contents = JSON.parse(await (await zip.read('lecture.json')).text()) as Contents
  const paths = [...contents.files, ...contents.assets]
  const files = await Promise.all(paths.map(async ({ path }) => ({ name: path, data: await zip.read(path) })))
  change(contents)
  return new File(
    [await zipFiles([{ name: 'lecture.json', data: new Blob([JSON.stringify(contents)]) }, ...files])],
    'x',
  )
}
const counts = () =>
  Promise.all([db.lectures, db.takes, db.files, db.chunks, db.documents, db.steps].map((t) => t.count()))

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
  analysed.length = 0
  await db.terms.put(term)
  await db.courses.put(course)
  id = await createLecture('ps201', 3, 'Ice, and how it flows')
  const feed = { label: 'Picture', fileId: 'film', offset: 0, duration: 60 }
  await db.takes.put({
    id: 't',
    lectureId: id,
    state: 'whole',
    startedAt: '2026-11-23T10:00:00.000Z',
    duration: 60,
    feeds: [
      { ...feed, id: 'screen', kind: 'screen', width: 64, height: 36, frameRate: 25 },
      { ...feed, id: 'sound', kind: 'sound', width: 0, height: 0, frameRate: 0 },
    ],
    pauses: [],
    note: '',
  })
  const film = new Blob([new Uint8Array(9 << 20).fill(7)])
  await storeFile({ id: 'film', type: 'video/mp4', name: 'film: one.mp4', size: film.size }, film, () => undefined)
  await db.analyses.put({ takeId: 't', left: [12.5] })
  const asset = await addAsset(new File(['a film'], 'clip.mp4', { type: 'video/mp4' }), id, jobs())
  const edit = newEdit(recorded(60), 25)
  const cut = apply(edit, { do: 'remove', id: 'r', from: recorded(10), to: recorded(15) })
  await storeDocument(id, 'edit', null, edit, { says: '' })
  await storeDocument(id, 'edit', edit, cut, { says: 'Took out 0:10 – 0:15' })
  const what = { kind: 'video' as const, file: asset.hash, from: recorded(0), to: recorded(3) }
  await storeDocument(id, 'edit', cut, apply(cut, { do: 'insert', id: 'i', at: recorded(0), what }), { says: 'Put in' })
  await storeDocument(id, 'captions', null, newTrack({ cues: [cue('ice')] }, 'person'), { says: 'Wrote' })
  await keepRevision(id, 'autumn')
  await goToStep(id, 'edit', () => 1)
})

describe('a lecture saved whole', () => {
  it('is opened in another browser with its media, documents, history and revisions', async () => {
    const before = (await loadParts(id))!
    const file = await make()
    expect(file.name).toBe('Ice-and-how-it-flows.thaw.zip')
    await Promise.all(db.tables.map((t) => t.clear()))
    const { lectureId, note } = await openArchive(file, jobs())
    expect([lectureId, note]).toEqual([id, ''])
    const after = (await loadParts(id))!
    expect(after.lecture).toEqual(before.lecture)
    expect(await db.courses.toArray()).toEqual([course])
    expect(await db.terms.toArray()).toEqual([term])
    expect(after.rows).toEqual(before.rows)
    const [take] = after.takes
    expect(new Set(take!.feeds.map((f) => f.fileId)).size).toBe(1)
    const film = await readFile(take!.feeds[0]!.fileId)
    expect(await digest(film!)).toBe(await digest(new Blob([new Uint8Array(9 << 20).fill(7)])))
    expect(await db.analyses.get(take!.id)).toMatchObject({ left: [12.5] })
    expect(analysed).toEqual([id])
    // One step was undone; it can be done again, and puts in what was brought along.
    expect((await stepsOf(`${id}-edit`)).map((s) => s.says)).toEqual(['Took out 0:10 – 0:15', 'Put in'])
    await goToStep(id, 'edit', () => 2)
    const { document } = (await documentRow(id, 'edit'))!
    const [insert] = document.inserts
    expect(await (await readFile((insert!.what as { file: string }).file))!.text()).toBe('a film')
    await goToStep(id, 'edit', () => 0)
    expect((await documentRow(id, 'edit'))!.document.removed).toEqual([])
    await bringBack((await revisionsOf(id))[0]!.id)
    expect((await documentRow(id, 'edit'))!.document.inserts).toHaveLength(1)
    await deleteLecture(id)
    expect([await db.files.count(), await db.chunks.count(), await db.assets.count()]).toEqual([0, 0, 0])
  })
  it('is opened beside itself as a copy, in the course that is there', async () => {
    const { lectureId } = await openArchive(await make(), jobs())
    expect(lectureId).not.toBe(id)
    expect((await db.lectures.get(lectureId))?.title).toBe('Ice, and how it flows (from an archive)')
    await deleteLecture(id)
    const { takes } = (await loadParts(lectureId))!
    expect((await readFile(takes[0]!.feeds[0]!.fileId))?.size).toBe(9 << 20)
  })
  it('is opened as version 1 wrote it, whose course said when its term begins, and its weeks', async () => {
    const file = await changed(await make(), (contents) => {
      const { termId: _, ...earlier } = course
      Object.assign(contents, { version: 1, course: { ...earlier, startsOn: '2026-11-02', weeks: 2 } })
      delete (contents as { stood?: unknown }).stood
    })
    await Promise.all(db.tables.map((t) => t.clear()))
    const { lectureId } = await openArchive(file, jobs())
    expect(await db.lectures.get(lectureId)).toMatchObject({ courseId: 'ps201', week: 2 })
    const [{ termId } = { termId: '' }] = await db.courses.toArray()
    expect(await db.terms.get(termId)).toMatchObject({ firstDay: '2026-11-02', lastDay: '2026-11-15' })
  })
  it('of no course stands in none, there as here', async () => {
    await db.lectures.update(id, { courseId: '' })
    const file = await make()
    await Promise.all(db.tables.map((t) => t.clear()))
    const { lectureId } = await openArchive(file, jobs())
    expect(await db.lectures.get(lectureId)).toMatchObject({ courseId: '', week: 3 })
    expect([await db.courses.count(), await db.terms.count()]).toEqual([0, 0])
  })
  it('goes into the course with its code, where the other browser has that', async () => {
    const file = await make()
    await Promise.all(db.tables.map((t) => t.clear()))
    await db.terms.put({ ...term, id: 'short', lastDay: '2026-11-15' })
    await db.courses.put({ ...course, id: 'mine', termId: 'short' })
    const { lectureId } = await openArchive(file, jobs())
    expect(await db.lectures.get(lectureId)).toMatchObject({ courseId: 'mine', week: 2 })
    expect(await db.courses.count()).toBe(1)
  })
})

describe('an archive that is not as it was', () => {
  it.each<[string, (file: File) => Promise<File> | File, RegExp]>([
    ['cut short', (file) => new File([file.slice(0, file.size - 3000)], 'x'), /no ZIP archive, or not all of one/],
    ['no archive', () => new File(['WEBVTT'], 'x'), /no ZIP archive/],
    [
      'of something else',
      async () => new File([await zipFiles([{ name: 'a', data: new Blob(['a']) }])], 'x'),
      /no lecture/,
    ],
    [
      'flipped in the middle of the film',
      async (file) => {
        const bytes = new Uint8Array(await file.arrayBuffer())
        bytes[5 << 20]! ^= 1
        return new File([bytes], 'x')
      },
      /is damaged/,
    ],
    [
      'without JSON',
      async () => new File([await zipFiles([{ name: 'lecture.json', data: new Blob(['{']) }])], 'x'),
      /cannot be read/,
    ],
    [
      'of a version to come',
      (file) => changed(file, (c) => Object.assign(c, { version: 3 })),
      /This archive cannot be used/,
    ],
    [
      'with a path that leads out of it',
      (file) => changed(file, (c) => Object.assign(c.files[0]!, { path: 'media/../../x' })),
      /This archive cannot be used/,
    ],
    [
      'without the film that it names',
      (file) => changed(file, (c) => Object.assign(c, { files: [] })),
      /A recording that this archive names is not in it/,
    ],
    [
      'with an edit that is none',
      (file) =>
        changed(file, (c) =>
          Object.assign(
            c.documents.find((d) => d.kind === 'edit')!,
            { document: 1 },
          ),
        ),
      /cannot be used/,
    ],
    [
      'with a revision that says something else',
      (file) => changed(file, (c) => Object.assign(c.contents[0]!, { document: { x: 1 } })),
      /A revision in this archive is damaged/,
    ],
    [
      'with a revision of what no lecture has',
      (file) => changed(file, (c) => Object.assign(c.revisions[0]!, { documents: { nonsense: c.contents[0]!.hash } })),
      /cannot be used/,
    ],
    [
      'with a document of a name that is none',
      (file) => changed(file, (c) => Object.assign(c.documents[0]!, { kind: 'captions-../x' })),
      /cannot be used/,
    ],
  ])('%s is refused in words, and nothing of it stays', async (_, spoil, words) => {
    const file = await spoil(await make())
    const before = await counts()
    await expect(openArchive(file, jobs())).rejects.toThrow(words)
    // What was stored by then goes with the job, by the names that it was given.
    for (const fileId of held) if (!(await db.assets.get(fileId))) await db.files.delete(fileId)
    expect((await counts()).filter((n, i) => i !== 3)).toEqual(before.filter((n, i) => i !== 3))
  })
  it('in whose history nothing makes sense is opened without that, and says so', async () => {
    const file = await changed(await make(), (c) => {
      const edit = c.documents.find((d) => d.kind === 'edit')!
      edit.steps[0]!.change = { items: [{ list: 'inserts', id: 'z', before: { id: 'z' }, after: null }], fields: [] }
    })
    const { lectureId, note } = await openArchive(file, jobs())
    expect(note).toBe('What was done to its edit before cannot be undone here.')
    expect(await stepsOf(`${lectureId}-edit`)).toEqual([])
    expect((await documentRow(lectureId, 'edit'))?.document.removed).toHaveLength(1)
  })
})
