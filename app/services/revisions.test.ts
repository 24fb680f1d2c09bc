import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { newTrack } from '#core/captions/track'
import { kinds, type Documents, type Kind } from '#core/documents/kinds'
import { apply, lengthen, newEdit } from '#core/edit/edit'
import { newChapterList } from '#core/marks/chapters'
import { newCheckpoint, newQuestionSet } from '#core/questions/set'
import type { Take } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { storeFile, readFile } from '~/db/files'
import { documentRow, goToStep, stepsOf, storeDocument } from './documents'
import { copyLecture, createLecture, deleteLecture } from './lectures'
import { changeLecture, loadParts } from './cards'
import {
  bringBack,
  changesSince,
  deleteRevision,
  keepPublished,
  keepRevision,
  partsAsOf,
  revisionsOf,
} from './revisions'

let id = ''
let n = 0
const newName = () => `x${n++}`
const cue = (text: string) => ({ id: 'c', from: recorded(1), to: recorded(2), text })
const track = (text: string) => newTrack({ cues: [cue(text)] }, 'person')
const cut = (from: number) =>
  apply(newEdit(recorded(60), 25), { do: 'remove', id: 'r', from: recorded(from), to: recorded(from + 5) })

const document = async <K extends Kind>(kind: K, of = id) => (await documentRow(of, kind))?.document ?? null
/** Changes a document as a person does. */
const change = async <K extends Kind>(kind: K, next: Documents[K]) =>
  storeDocument(id, kind, await document(kind), next, { says: 'Changed' })

beforeEach(async () => {
  await Promise.all(db.tables.map((table) => table.clear()))
  id = await createLecture('ps201', 1, 'Ice')
  await change('edit', cut(10))
  await change('captions', track('ice'))
})

describe('a revision', () => {
  it('brings every document back as it was, in steps that can be undone', async () => {
    const before = [await document('edit'), await document('captions')]
    await keepRevision(id, 'autumn')
    await change('edit', cut(30))
    await change('captions', track('snow'))
    const set = { ...newQuestionSet('Ice'), checkpoints: [newCheckpoint(recorded(3), newName)] }
    await change('questions', set)
    const [revision] = await revisionsOf(id)
    await bringBack(revision!.id)
    expect([await document('edit'), await document('captions')]).toEqual(before)
    // What was not there then is empty now.
    expect((await document('questions'))?.checkpoints).toEqual([])
    for (const kind of ['edit', 'captions', 'questions'] as const) {
      expect((await stepsOf(`${id}-${kind}`)).at(-1)?.says).toBe('Went back to “autumn”')
      await goToStep(id, kind, (applied) => applied - 1)
    }
    expect((await document('edit'))?.removed[0]?.from).toBe(30)
    expect((await document('captions'))?.cues[0]?.text).toBe('snow')
    expect((await document('questions'))?.checkpoints).toEqual(set.checkpoints)
  })
  it('or the first thing ever done, undone, leaves a document that can be read', async () => {
    await change('chapters', { ...newChapterList(), chapters: [{ id: 'a', at: recorded(1), title: 'A' }] })
    await goToStep(id, 'chapters', () => 0)
    expect(kinds.chapters.read(await document('chapters')).chapters).toEqual([])
    await goToStep(id, 'chapters', () => 1)
    expect((await document('chapters'))?.chapters).toHaveLength(1)
  })
  it('leaves a recording that became longer as long as it is', async () => {
    await keepRevision(id, 'before')
    await change('edit', lengthen((await document('edit'))!, recorded(90)))
    await bringBack((await revisionsOf(id))[0]!.id)
    expect(await document('edit')).toMatchObject({ duration: 90, removed: [{ from: 10 }] })
  })
  it('stores once what several say alike, for as long as one does', async () => {
    await keepRevision(id, 'one')
    await keepRevision(id, 'two')
    expect(await db.contents.count()).toBe(2)
    await change('captions', track('snow'))
    await keepRevision(id, 'three')
    expect(await db.contents.count()).toBe(3)
    const [three, two] = await revisionsOf(id)
    expect(three!.name).toBe('three')
    await deleteRevision(two!.id)
    expect(await db.contents.count()).toBe(3)
    await deleteRevision(three!.id)
    expect(await db.contents.count()).toBe(2)
  })
  it('that is gone, or that nothing can read, changes nothing and says so', async () => {
    await expect(bringBack('gone')).rejects.toThrow('not there any more')
    await change('chapters', { ...newChapterList(), chapters: [{ id: 'a', at: recorded(1), title: 'A' }] })
    await keepRevision(id, 'torn')
    const [revision] = await revisionsOf(id)
    await db.contents.put({ hash: revision!.documents.chapters!, document: { torn: true } as never })
    await change('captions', track('snow'))
    await expect(bringBack(revision!.id)).rejects.toThrow('cannot be used')
    expect((await document('captions'))?.cues[0]?.text).toBe('snow')
  })
  it('goes with its lecture', async () => {
    await keepRevision(id, 'one')
    await deleteLecture(id)
    expect([await db.revisions.count(), await db.contents.count()]).toEqual([0, 0])
  })
})

describe('what is published', () => {
  const parts = async () => (await loadParts(id))!
  const keep = async () => {
    const held = await parts()
    return changeLecture(id, () => keepPublished(held), [db.revisions, db.contents])
  }
  it('is kept once, however often the same goes out', async () => {
    const first = await keep()
    expect(await keep()).toBe(first)
    await change('captions', track('snow'))
    const second = await keep()
    expect(second).not.toBe(first)
    expect((await revisionsOf(id)).map((r) => r.name)).toEqual(['As published', 'As published'])
    // Gone back to, the first is it again.
    await bringBack(first)
    expect(await keep()).toBe(first)
  })
  it('is a revision of a person’s, where that says the same', async () => {
    const named = await keepRevision(id, 'autumn')
    expect(await keep()).toBe(named)
    await change('chapters', { ...newChapterList(), chapters: [{ id: 'a', at: recorded(1), title: 'A' }] })
    expect(await keep()).not.toBe(named)
  })
  it('can be a revision, whatever stands on the desk', async () => {
    const autumn = await keepRevision(id, 'autumn')
    await change('captions', track('snow'))
    await change('chapters', { ...newChapterList(), chapters: [{ id: 'a', at: recorded(1), title: 'A' }] })
    await change('edit', lengthen((await document('edit'))!, recorded(90)))
    const { rows } = await partsAsOf(await parts(), autumn)
    const read = <K extends Kind>(kind: K) =>
      rows.find((row) => row.kind === kind)?.document as Documents[K] | undefined
    expect(read('captions')?.cues[0]?.text).toBe('ice')
    expect(read('chapters')).toBeUndefined()
    // The recording is as long as it is now.
    expect(read('edit')).toMatchObject({ duration: 90, removed: [{ from: 10 }] })
    await expect(partsAsOf(await parts(), 'gone')).rejects.toThrow('not there any more')
  })
  it('tells what was changed since, and nothing once it is gone', async () => {
    const first = await keep()
    await change('captions', track('snow'))
    expect(await changesSince(first)).toMatchObject([{ kind: 'captions', how: 'changed', range: { from: 1, to: 2 } }])
    await deleteRevision(first)
    expect(await changesSince(first)).toBeNull()
  })
})

describe('a copy of a lecture', () => {
  beforeEach(async () => {
    const feed = {
      id: 'sound',
      kind: 'sound' as const,
      label: 'Sound',
      fileId: 'f',
      offset: 0,
      duration: 60,
      width: 0,
      height: 0,
    }
    const take: Take = {
      id: 't',
      lectureId: id,
      state: 'whole',
      startedAt: '2026-11-23T10:00:00.000Z',
      duration: 60,
      feeds: [{ ...feed, frameRate: 0 }],
      pauses: [],
      note: '',
    }
    await db.takes.put(take)
    await storeFile({ id: 'f', type: 'audio/mp4', name: 'f.m4a', size: 3 }, new Blob(['ice']), () => undefined)
    await db.analyses.put({ takeId: 't', slides: [4] })
    await db.stills.put({ takeId: 't', kind: 'slide', at: 4, image: new Blob(['x']) })
  })

  it('has the same documents, and goes its own way', async () => {
    const copy = await copyLecture(id, 'Copy of Ice')
    for (const kind of Object.keys(kinds) as Kind[]) expect(await document(kind, copy)).toEqual(await document(kind))
    await storeDocument(copy, 'captions', await document('captions', copy), track('firn'), { says: 'Changed' })
    expect((await document('captions'))?.cues[0]?.text).toBe('ice')
    expect(await stepsOf(`${copy}-captions`)).toHaveLength(1)
    expect((await db.cards.get(copy))?.lecture).toMatchObject({ title: 'Copy of Ice', courseId: 'ps201' })
    const take = await db.takes.where('lectureId').equals(copy).first()
    expect(await db.analyses.get(take!.id)).toMatchObject({ slides: [4] })
    expect(await db.stills.where('takeId').equals(take!.id).count()).toBe(1)
  })
  it('shares the recording, which stays until neither is there', async () => {
    const copy = await copyLecture(id, 'Copy of Ice')
    expect(await db.chunks.count()).toBe(1)
    await deleteLecture(id)
    expect((await readFile('f'))?.size).toBe(3)
    expect(await db.analyses.count()).toBe(1)
    await deleteLecture(copy)
    expect([await db.chunks.count(), await db.takes.count(), await db.stills.count()]).toEqual([0, 0, 0])
  })
  it('of one that is gone is none', async () => {
    await expect(copyLecture('gone', 'x')).rejects.toThrow('not there any more')
    expect(await db.lectures.count()).toBe(1)
  })
})
