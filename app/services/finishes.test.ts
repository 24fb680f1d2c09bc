import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newEdit } from '#core/edit/edit'
import { newFinish } from '#core/edit/finish'
import { recorded } from '#core/time/units'
import { db, type JobRow } from '~/db/database'
import type { JobContext } from '~/stores/jobs'
import { addAsset } from './assets'
import { documentRow, goToStep, stepsOf, storeDocument, travel } from './documents'
import { deleteFinish, finishes, openFinish, putFinishOn, saveFinish, storeFinish } from './finishes'
import { createLecture, deleteLecture, describeLecture } from './lectures'

const saved: { name: string; content: BlobPart }[] = []
vi.mock('~/utils/download', async (original) => ({
  ...(await original<object>()),
  download: (name: string, _type: string, content: BlobPart) => saved.push({ name, content }),
}))

const digest = async (data: Blob) =>
  Buffer.from(await crypto.subtle.digest('SHA-256', await data.arrayBuffer())).toString('hex')
const told: Partial<JobRow>[] = []
let abort = new AbortController()
/** What is done when a lecture's turn has come. */
let onTurn: () => void = () => undefined
const analysed: string[] = []
const jobs = {
  start: async (kind: string, of: string, _says: string, run: (context: JobContext) => Promise<unknown>) => {
    if (kind === 'analyse') return void analysed.push(of)
    return run({
      engine: { digest },
      scratch: 's',
      progress: () => onTurn(),
      signal: abort.signal,
      holds: () => Promise.resolve(),
      tell: (more: Partial<JobRow>) => Promise.resolve(void told.push(more)),
    } as unknown as JobContext)
  },
} as unknown as Parameters<typeof putFinishOn>[2]

async function lecture(title: string, isRecorded = true): Promise<string> {
  const id = await createLecture('c', 2, title)
  if (!isRecorded) return id
  const takeId = `take-${id}`
  const feed = { id: 'sound', kind: 'sound' as const, label: 'Sound', fileId: `f-${id}`, offset: 0, duration: 60 }
  await db.takes.put({
    ...{ id: takeId, lectureId: id, state: 'whole', startedAt: '2026-11-09T10:00:00.000Z', duration: 60 },
    ...{ pauses: [], note: '', feeds: [{ ...feed, width: 0, height: 0, frameRate: 0 }] },
  })
  const cut = { from: recorded(0), to: recorded(4), reason: 'start' as const, says: '' }
  const sound = { proposals: [cut], clipping: [], silences: [] } as never
  await db.analyses.put({ takeId, sound })
  await storeDocument(id, 'edit', null, newEdit(recorded(60), 25), { says: '' })
  return id
}
const edit = async (id: string) => (await documentRow(id, 'edit'))?.document
const usual = { ...newFinish('f', 'Usual'), closing: null, sound: null, chapters: false }
let ice = ''
let snow = ''

beforeEach(async () => {
  vi.stubGlobal('navigator', {
    locks: { request: (...more: unknown[]) => Promise.resolve((more.at(-1) as () => unknown)()) },
  })
  await Promise.all(db.tables.map((t) => t.clear()))
  told.length = 0
  analysed.length = 0
  abort = new AbortController()
  onTurn = () => undefined
  await db.courses.put({ id: 'c', code: 'PS 1', title: 'Ice', termId: 'term' })
  ice = await lecture('Ice')
  snow = await lecture('Snow')
  await storeFinish(usual)
})

describe('a finish on several lectures', () => {
  it('is one step on each, and says what each lacks', async () => {
    const { ...row } = (await db.lectures.get(ice))!
    await describeLecture(row, { lecturer: 'I. Fjeld' })
    const empty = await lecture('Planned', false)
    const report = await putFinishOn('f', [ice, snow, empty, 'gone'], jobs)
    expect(report.map((r) => [r.title, r.did, r.look])).toEqual([
      ['Ice', ['1 part taken out, 4 s.', 'An opening card.'], []],
      ['Snow', ['1 part taken out, 4 s.', 'An opening card.'], ['The opening card lacks the lecturer.']],
      ['Planned', [], ['Nothing is recorded yet.']],
      ['A deleted lecture', [], ['It is not there any more.']],
    ])
    expect((await edit(ice))?.inserts[0]?.what).toMatchObject({
      title: 'Ice',
      text: 'I. Fjeld\nPS 1 Ice · 9 November 2026',
    })
    expect((await stepsOf(`${ice}-edit`)).map((s) => s.says)).toEqual(['Put on the finish “Usual”'])
    await goToStep(ice, 'edit', () => 0)
    expect(await edit(ice)).toEqual(newEdit(recorded(60), 25))
  })
  it('is undone, and done again, on all documents that it changed at once', async () => {
    await storeFinish({ ...usual, chapters: true })
    await db.analyses.update(`take-${ice}`, { slides: [0, 20] })
    await putFinishOn('f', [ice], jobs)
    const counts = async () => [
      (await edit(ice))?.inserts.length,
      (await documentRow(ice, 'chapters'))?.document.chapters.length,
    ]
    expect(await counts()).toEqual([1, 2])
    await travel(ice, ['edit', 'chapters'], 'undo')
    expect(await counts()).toEqual([0, 0])
    await travel(ice, ['edit', 'chapters'], 'redo')
    expect(await counts()).toEqual([1, 2])
    // What was done to one of them since is undone by itself.
    const chapters = (await documentRow(ice, 'chapters'))!.document
    await storeDocument(ice, 'chapters', chapters, { ...chapters, chapters: [] }, { says: 'Dropped' })
    await travel(ice, ['edit', 'chapters'], 'undo')
    expect(await counts()).toEqual([1, 2])
  })
  it('that is cut off goes on with those that are left, and keeps what came of the others', async () => {
    onTurn = () => told.length === 1 && abort.abort()
    await expect(putFinishOn('f', [ice, snow, ice], jobs)).rejects.toThrow('Cancelled')
    expect((await edit(snow))?.inserts).toHaveLength(1)
    const row = told.at(-1)!
    expect(row.restart).toEqual({ do: 'finish', finishId: 'f', lectureIds: [ice] })
    abort = new AbortController()
    onTurn = () => undefined
    const report = await putFinishOn('f', [snow], jobs, { id: 'cut-off', report: row.report! })
    expect(report.map((r) => r.title)).toEqual(['Ice', 'Snow', 'Snow'])
  })
  it('goes on past one that cannot be done', async () => {
    await db.documents.update(`${ice}-edit`, { document: { torn: true } as never })
    const report = await putFinishOn('f', [ice, snow], jobs)
    expect(report.map((r) => r.did.length)).toEqual([0, 2])
    expect(report[0]!.look).toHaveLength(1)
  })
  it('looks through first what nobody has looked through', async () => {
    await db.analyses.clear()
    await putFinishOn('f', [ice], jobs)
    expect(analysed).toEqual([ice])
  })
  it('that is gone changes nothing', async () => {
    await expect(putFinishOn('gone', [ice], jobs)).rejects.toThrow('not there any more')
    expect((await edit(ice))?.inserts).toEqual([])
  })
})

describe('the mark of a finish', () => {
  const box = { x: 0.8, y: 0, width: 0.1, height: 0.1 }
  beforeEach(async () => {
    vi.stubGlobal('createImageBitmap', () => Promise.resolve({ width: 4, height: 4, close: () => undefined }))
    const { hash } = await addAsset(new File(['a mark'], 'our mark.png', { type: 'image/png' }), 'f', jobs)
    await storeFinish({ ...usual, watermark: { file: hash, box, opacity: 0.5 } })
  })
  it('stays on the lectures that it was put on when the finish is deleted, and goes with the last of these', async () => {
    await putFinishOn('f', [ice], jobs)
    await deleteFinish('f')
    expect(await db.finishes.count()).toBe(0)
    expect((await db.assets.toArray()).map((a) => a.lectureIds)).toEqual([[ice]])
    await deleteLecture(ice)
    expect([await db.assets.count(), await db.files.count()]).toEqual([0, 0])
  })
  it('is saved with the finish, and opened with it', async () => {
    const name = await saveFinish((await finishes())[0]!)
    expect(name).toBe('Usual.finish.zip')
    const file = new File([saved.at(-1)!.content], name)
    await deleteFinish('f')
    const id = await openFinish(file, jobs)
    const [finish] = await finishes()
    expect(finish).toMatchObject({ id, name: 'Usual', watermark: { box, opacity: 0.5 } })
    expect(await db.assets.get(finish!.watermark!.file)).toMatchObject({ name: 'mark-our-mark.png', lectureIds: [id] })
  })
  it('that is missing, or no picture, keeps the finish from being opened', async () => {
    const lacking = new File([JSON.stringify((await finishes())[0])], 'x.json')
    await expect(openFinish(lacking, jobs)).rejects.toThrow('is missing; open the archive')
    await saveFinish((await finishes())[0]!)
    const file = new File([saved.at(-1)!.content], 'x.zip')
    await deleteFinish('f')
    vi.stubGlobal('createImageBitmap', () => Promise.reject(new Error('no picture')))
    await expect(openFinish(file, jobs)).rejects.toThrow('cannot be read')
    expect([await db.finishes.count(), await db.assets.count(), await db.files.count()]).toEqual([0, 0, 0])
  })
})

describe('a saved finish', () => {
  it('without a mark is plain JSON', async () => {
    expect(await saveFinish(usual)).toBe('Usual.finish.json')
    const id = await openFinish(new File([saved.at(-1)!.content], 'x.json'), jobs)
    expect(await db.finishes.get(id)).toEqual({ ...usual, id })
  })
  it.each([
    ['nothing', '', 'holds no JSON'],
    ['something else', '{"format":"thaw-edit"}', 'This finish cannot be used'],
    ['an archive that is none', 'PK nothing', 'no ZIP archive'],
  ])('of %s is refused in words', async (_, content, words) => {
    await expect(openFinish(new File([content], 'x'), jobs)).rejects.toThrow(words)
    expect(await db.finishes.count()).toBe(1)
  })
})
