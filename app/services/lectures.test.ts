import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { apply, lengthen, newEdit } from '#core/edit/edit'
import { readiness } from '#core/library/readiness'
import { newTrack, setState } from '#core/captions/track'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { newCheckpoint, newQuestionSet } from '#core/questions/set'
import { oneRight } from '../../test/questions'
import type { Documents, Kind } from '#core/documents/kinds'
import type { Take } from '#core/schema/lecture'
import type { Place } from '#core/schema/publication'
import { recorded } from '#core/time/units'
import { db, type AssetRow } from '~/db/database'
import { appendChunk, readFile, storeFile } from '~/db/files'
import { beginAnew, copyLecture, createLecture, deleteLecture, describeLecture, loadCheckedParts } from './lectures'
import { decide, documentRow, goToStep, newRow, stepsOf, storeDocument } from './documents'
import {
  cardsOf,
  changeLecture,
  countWaiting,
  folderKeys,
  lectureFacts,
  loadParts,
  writeMissingCards,
  type LectureParts,
} from './cards'
import { documentOf, fingerprints, type Fingerprints } from './fingerprint'
import { nothingHeard } from './heard'
import { editFrameRate, showFeed } from './takes'
import { placeOf } from '../../test/publication'

const NOW = '2026-11-23T10:00:00.000Z'
let id = ''

async function parts(): Promise<LectureParts> {
  const found = await loadParts(id)
  if (!found) throw new Error('gone')
  return found
}

const put = <K extends Kind>(kind: K, document: Documents[K], lectureId = id) =>
  changeLecture(lectureId, () => db.documents.put(newRow(lectureId, kind, document)))
const edit = async () => (await documentRow(id, 'edit'))!.document
/** The lecture with one of its documents being another. */
const having = async <K extends Kind>(kind: K, document: Documents[K]): Promise<LectureParts> => {
  const found = await parts()
  return { ...found, rows: [...found.rows.filter((r) => r.kind !== kind), newRow(id, kind, document)] }
}
const cut = { do: 'remove' as const, id: 'a', from: recorded(1), to: recorded(2) }

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
  id = await createLecture('ps201', 3, 'How ice flows')
  const take: Take = {
    id: 't1',
    lectureId: id,
    state: 'whole',
    startedAt: NOW,
    duration: 60,
    feeds: [
      {
        id: 'sound',
        kind: 'sound',
        label: 'Sound',
        fileId: 'f1',
        offset: 0,
        duration: 60,
        width: 0,
        height: 0,
        frameRate: 0,
      },
    ],
    pauses: [],
    note: '',
  }
  await changeLecture(id, () => db.takes.put(take))
  await appendChunk('f1', 0, new Uint8Array([1, 2, 3]))
  await put('edit', newEdit(recorded(60), 24))
})

const released = (lectureId: string, publicationId: string, made: Fingerprints) => ({
  lectureId,
  publicationId,
  version: 'v',
  asked: {},
  publishedAt: NOW,
  ...made,
})
const asset = (hash: string, ...lectureIds: string[]): AssetRow => ({
  ...{ hash, kind: 'picture', name: 'ice.png', size: 1, width: 4, height: 3, duration: 0, sound: false, lectureIds },
})
const standing = (lectureId: string, place: Place) => ({ id: place.id, lectureId, place, asked: [], removed: false })

describe('a lecture on the board', () => {
  it('is ready for what comes next, from what is truly there', async () => {
    const next = async () => readiness({ ...(await db.cards.get(id))!.facts, now: NOW }).next?.says
    expect(await next()).toBe('Tidy')
    await put('edit', apply(await edit(), { ...cut, from: recorded(10), to: recorded(20) }))
    expect(await next()).toBe('Draft captions')
    const track = newTrack({ cues: [{ id: 'c', from: recorded(1), to: recorded(2), text: 'x' }] }, 'person')
    await put('captions', setState(track, 'checked'))
    expect(await next()).toBe('Switch captions on')
    await put('captions', setState(track, 'on'))
    expect(await next()).toBe('Ask a question')
    let n = 0
    const fresh = newCheckpoint(recorded(15), () => `i${++n}`)
    const whole = { ...fresh, questions: [oneRight('q')] }
    await put('questions', { ...newQuestionSet('x'), checkpoints: [fresh] })
    expect(await next()).toBe('Finish a question')
    await put('questions', { ...newQuestionSet('x'), checkpoints: [whole] })
    expect(await next()).toBe('Move a question')
    await put('questions', { ...newQuestionSet('x'), checkpoints: [{ ...whole, at: recorded(30) }] })
    expect(await next()).toBe('Publish')
    await changeLecture(id, async () => {
      await db.releases.put(released(id, 'pub', fingerprints(await parts())))
      await db.places.put(standing(id, placeOf('p', 'pub', 'ps201', { from: '2026-01-01T00:00:00.000Z' })))
    })
    expect(await next()).toBeUndefined()
    await describeLecture((await parts()).lecture, { title: 'How ice really flows' })
    expect(await next()).toBe('Publish again')
  })

  it('has the same fingerprint after an edit is undone, and another while it stands', async () => {
    const before = fingerprints(await parts())
    await storeDocument(id, 'edit', await edit(), apply(await edit(), cut), { says: 'Took out' })
    expect(fingerprints(await parts())).not.toEqual(before)
    await goToStep(id, 'edit', (applied) => applied - 1)
    expect(fingerprints(await parts())).toEqual(before)
  })

  it('counts captions that are not on as nothing that students would get', async () => {
    const before = fingerprints(await parts())
    const captions = newTrack({ cues: [{ id: 'c', from: recorded(1), to: recorded(2), text: 'x' }] }, 'person')
    expect(fingerprints(await having('captions', captions))).toEqual(before)
    expect(fingerprints(await having('captions', setState(captions, 'on')))).not.toEqual(before)
  })

  it('has another fingerprint once students are to hear another microphone, and the first again when that is heard again', async () => {
    const take = (await db.takes.get('t1'))!
    await db.takes.update('t1', { feeds: [...take.feeds, { ...take.feeds[0]!, id: 'sound-2', fileId: 'f2' }] })
    const jobs = { start: () => Promise.resolve() } as unknown as Parameters<typeof showFeed>[2]
    const before = fingerprints(await parts())
    await showFeed('t1', { kind: 'sound', fileId: 'f2' }, jobs)
    expect(fingerprints(await parts())).not.toEqual(before)
    await showFeed('t1', { kind: 'sound', fileId: 'f1' }, jobs)
    expect(fingerprints(await parts())).toEqual(before)
  })

  it('takes everything of its own with it when deleted, and nothing of another', async () => {
    // A row of its own and one of another lecture in every table that holds something of a lecture.
    const fill = async (lectureId: string, n: string) => {
      const place = placeOf(`pl${n}`, `pub${n}`, 'ps201', { from: NOW })
      const student = { issuer: 'https://site.example', subject: 's', name: 'S' }
      const image = new Blob(['x'])
      await db.takes.put({
        id: `t${n}`,
        lectureId,
        state: 'whole',
        startedAt: NOW,
        duration: 60,
        feeds: [
          {
            id: 'sound',
            kind: 'sound',
            label: 'Sound',
            fileId: `f${n}`,
            offset: 0,
            duration: 60,
            width: 0,
            height: 0,
            frameRate: 0,
          },
        ],
        pauses: [],
        note: '',
      })
      await db.files.put({ id: `f${n}`, type: 'audio/mp4', name: 'x', size: 3 })
      await appendChunk(`f${n}`, 0, new Uint8Array([1, 2, 3]))
      await db.documents.put(newRow(lectureId, 'edit', newEdit(recorded(60), 24)))
      await db.steps.put({
        documentId: `${lectureId}-edit`,
        seq: 0,
        says: 'Nothing',
        doneAt: NOW,
        change: { items: [], fields: [] },
      })
      await changeLecture(lectureId, async () => {
        await db.releases.put(released(lectureId, `pub${n}`, { films: '', captions: '', sets: '' }))
        await db.places.put(standing(lectureId, place))
      })
      await db.broadcasts.put({ lectureId, place, title: 'x', startsAt: NOW })
      await db.peaks.put({ takeId: `t${n}`, levels: [] })
      await db.analyses.put({ takeId: `t${n}` })
      await db.heard.put(nothingHeard(`t${n}`, `f${n}`))
      await db.quiets.put({ takeId: `t${n}`, fileId: `f${n}`, sound: image, loudness: -20 })
      await db.backdrops.put({ takeId: `t${n}`, key: 'k', parts: [image] })
      await db.stills.put({ takeId: `t${n}`, kind: 'slide', at: 1, image })
      await db.posters.put({ lectureId, image })
      await db.assets.put(asset(`h${n}`, lectureId))
      const choice = { kind: 'one-right', choice: 'a' } as const
      const event = { id: 'e', kind: 'answer', questionId: 'q', answer: choice, at: NOW } as const
      await db.sentBack.put({
        ...{ placeId: `pl${n}`, who: 's1', student, seq: 1 },
        events: [{ seq: 1, receivedAt: NOW, event }],
      })
      const excused = { kind: 'excuse', excused: true, reason: 'x', questionId: 'q' } as const
      const entry = { ...excused, id: 'g', at: NOW, student, set: 'set' }
      await db.grading.put({ placeId: `pl${n}`, id: 'g', entry, seq: null })
      const sitting = { session: 's', student, version: 'v', from: NOW, until: NOW, played: [], reached: [] }
      await db.watching.put({ placeId: `pl${n}`, seq: 1, ...sitting })
      await db.timelines.put({ publicationId: `pub${n}`, version: 'v', duration: 1, kept: null })
      await db.sets.put({
        publicationId: `pub${n}`,
        version: 'v',
        id: 'set',
        title: 'x',
        publishedAt: NOW,
        policy: DEFAULT_POLICY,
        checkpoints: [],
        keys: [],
      })
      const revision = { name: 'x', madeAt: NOW, documents: { edit: `h${n}` }, hashes: [`h${n}`] }
      await db.revisions.put({ id: `rev${n}`, lectureId, ...revision })
      await db.contents.put({ hash: `h${n}`, document: newEdit(recorded(60), 24) })
      await db.jobs.put({
        id: `j${n}`,
        lectureId,
        kind: 'publish',
        state: 'done',
        progress: 1,
        says: '',
        startedAt: NOW,
      })
    }
    await fill(id, '1')
    const own = Object.fromEntries(await Promise.all(db.tables.map(async (t) => [t.name, await t.count()] as const)))
    const other = await createLecture('ps201', 4, 'Other')
    await fill(other, '2')
    const ofNoLecture = [
      'terms',
      'words',
      'orders',
      'courses',
      'finishes',
      'policies',
      'rosters',
      'setups',
      'settings',
      'turn',
    ]
    expect(Object.entries(own).filter(([name, n]) => n === 0 && !ofNoLecture.includes(name))).toEqual([])
    await deleteLecture(id)
    const left = await Promise.all(db.tables.map(async (t) => [t.name, await t.count()] as const))
    expect(left.filter(([name]) => !ofNoLecture.includes(name)).filter(([, n]) => n !== 1)).toEqual([])
    expect((await loadParts(other))?.places.map((p) => p.id)).toEqual(['pl2'])
    expect(await loadParts(id)).toBeNull()
  })

  it('shares its pictures with its copies, and takes them with it when none is left', async () => {
    const keep = (hash: string) =>
      storeFile({ id: hash, type: 'image/png', name: 'ice.png', size: 1 }, new Blob(['x']), () => undefined)
    await keep('shared')
    await keep('other')
    await db.assets.bulkPut([asset('shared', id), asset('other', 'another')])
    const copy = await copyLecture(id, 'Copy')
    expect((await db.assets.get('shared'))?.lectureIds).toEqual([id, copy])
    await deleteLecture(id)
    expect((await db.assets.get('shared'))?.lectureIds).toEqual([copy])
    expect(await readFile('shared')).not.toBeNull()
    await deleteLecture(copy)
    expect(await db.assets.toCollection().primaryKeys()).toEqual(['other'])
    expect([await readFile('shared'), (await readFile('other'))?.size]).toEqual([null, 1])
  })

  it('of an earlier version, without a card, is given one', async () => {
    const card = await db.cards.get(id)
    await db.cards.clear()
    await writeMissingCards()
    expect(await db.cards.toArray()).toEqual([card])
  })

  it('waits for a person while something of it is to be done, and again when its release is over', async () => {
    const place = placeOf('p', 'pub', 'ps201', { from: '2026-01-01T00:00:00.000Z' })
    expect(await countWaiting()).toBe(1)
    const done = async (until: string | null) => {
      await put('edit', apply(await edit(), cut))
      const cue = { id: 'c', from: recorded(5), to: recorded(6), text: 'x' }
      await put('captions', setState(newTrack({ cues: [cue] }, 'person'), 'on'))
      const checkpoints = [{ id: 'cp', at: recorded(30), questions: [oneRight('q')] }]
      await put('questions', { ...newQuestionSet('x'), checkpoints })
      await changeLecture(id, async () => {
        await db.releases.put(released(id, 'pub', fingerprints(await parts())))
        await db.places.put(standing(id, { ...place, until }))
      })
    }
    await done(null)
    expect(await countWaiting()).toBe(0)
    await done('2026-02-01T00:00:00.000Z')
    expect(await countWaiting()).toBe(1)
    await done(new Date(Date.now() + 400).toISOString())
    expect(await countWaiting()).toBe(0)
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect(await countWaiting()).toBe(1)
  })

  it('stands in its course, and in its folder and those around it', async () => {
    await describeLecture((await parts()).lecture, { folder: 'Fieldwork/Valleys' })
    await createLecture('ps201', 4, 'Other')
    const ids = async (folder?: string) => (await cardsOf('ps201', folder)).map((c) => c.lecture.title)
    expect(await ids()).toEqual(['How ice flows', 'Other'])
    expect([await ids('Fieldwork'), await ids('Fieldwork/Valleys'), await ids('Field')]).toEqual([
      ['How ice flows'],
      ['How ice flows'],
      [],
    ])
    expect(await folderKeys()).toEqual([
      { courseId: 'ps201', folder: '' },
      { courseId: 'ps201', folder: 'Fieldwork/Valleys' },
    ])
  })

  it('has its card of the same moment, or nothing has changed', async () => {
    const before = await db.cards.get(id)
    const failing = changeLecture(id, async () => {
      await db.lectures.update(id, { title: 'Half done' })
      throw new Error('the disk is full')
    })
    await expect(failing).rejects.toThrow('the disk is full')
    expect([(await parts()).lecture.title, await db.cards.get(id)]).toEqual(['How ice flows', before])
    await describeLecture((await parts()).lecture, { title: 'Done' })
    expect((await db.cards.get(id))?.lecture.title).toBe('Done')
  })

  it('with a damaged document opens without it, says why, keeps it as it is, and can begin it anew', async () => {
    expect(documentOf((await loadCheckedParts(id))!, 'edit')?.duration).toBe(60)
    await put('edit', { ...newEdit(recorded(60), 24), fade: 9 })
    await put('captions', newTrack({ cues: [] }, 'person'))
    const opened = (await loadCheckedParts(id))!
    expect(documentOf(opened, 'edit')).toBeNull()
    expect(documentOf(opened, 'captions')).not.toBeNull()
    const kept = await documentRow(id, 'edit')
    expect(kept).toMatchObject({
      document: { fade: 9 },
      unreadable: 'This edit document cannot be used: /fade must be <= 3.',
    })
    await expect(storeDocument(id, 'edit', null, newEdit(recorded(60), 24), { says: 'x' })).rejects.toThrow('/fade')
    // What can be read again, as by a later version, counts again.
    await db.documents.update(kept!.id, { document: newEdit(recorded(60), 24) })
    expect((await loadCheckedParts(id))!.rows.map((r) => r.unreadable)).toEqual([undefined, undefined])
    await put('edit', { ...newEdit(recorded(60), 24), fade: 9 })
    await loadCheckedParts(id)
    await beginAnew(id, 'captions')
    await beginAnew(id, 'edit')
    // The take has sound alone, and no frames to go by.
    expect((await documentRow(id, 'edit'))?.document).toEqual(newEdit(recorded(60), 0))
    expect(await documentRow(id, 'captions')).toBeDefined()
  })

  it('with a document that could not be read has its card all the same, and what is there stays', async () => {
    const torn = { ...newRow(id, 'edit', { applied: 9 } as unknown as Documents['edit']), unreadable: 'It is torn.' }
    await db.documents.put(torn)
    await db.cards.clear()
    await writeMissingCards()
    expect((await db.cards.get(id))?.facts).toMatchObject({ recording: 'whole', tidied: false })
    const next = newEdit(recorded(60), 24)
    await expect(storeDocument(id, 'edit', null, next, { says: 'x' })).rejects.toThrow('It is torn.')
    expect(await db.documents.get(`${id}-edit`)).toEqual(torn)
  })

  it('without a take says so in its facts', async () => {
    const planned = await createLecture('ps201', 5, 'Planned')
    expect(lectureFacts((await loadParts(planned))!)).toMatchObject({
      recording: 'none',
      tidied: false,
      captions: null,
      published: 'no',
    })
  })
})

it('edges snap to the finest picture there is', () => {
  const feed = {
    id: 'camera',
    kind: 'camera' as const,
    label: '',
    fileId: 'f',
    offset: 0,
    duration: 1,
    width: 2,
    height: 2,
    frameRate: 24,
  }
  expect(editFrameRate([feed, { ...feed, frameRate: 15 }, { ...feed, frameRate: 0 }])).toBe(24)
  expect(editFrameRate([])).toBe(0)
})

describe('a document that is changed', () => {
  it('while a further take is placed keeps both the change and the take', async () => {
    const before = await edit()
    const pause = { ...cut, id: 'pause', from: recorded(70), to: recorded(80), reason: 'pause' as const }
    const longer = lengthen(before, recorded(90))
    await storeDocument(id, 'edit', before, longer, { says: '' })
    await storeDocument(id, 'edit', longer, apply(longer, pause), { says: 'Folded a pause' })
    const mine = { ...cut, id: 'mine', from: recorded(10), to: recorded(20) }
    await storeDocument(id, 'edit', before, apply(before, mine), { says: 'Took out' })
    expect((await edit()).duration).toBe(90)
    expect((await edit()).removed.map((r) => r.id)).toEqual(['mine', 'pause'])
    await goToStep(id, 'edit', (applied) => applied - 1)
    expect((await edit()).removed.map((r) => r.id)).toEqual(['pause'])
    expect((await edit()).duration).toBe(90)
  })
  it('in two tabs at once keeps what both did, and shows what both changed', async () => {
    const cue = (text: string, key = 'c') => ({ id: key, from: recorded(1), to: recorded(2), text })
    const base = newTrack({ cues: [cue('heard'), cue('other', 'd')] }, 'recogniser')
    const says = { says: 'Changed the words' }
    await storeDocument(id, 'captions', null, base, says)
    const [one, two] = ['one', 'two'].map((text) => ({ ...base, cues: [cue(text), cue('other', 'd')] }))
    await Promise.all([
      storeDocument(id, 'captions', base, one!, says),
      storeDocument(id, 'captions', base, two!, says),
      storeDocument(id, 'captions', base, { ...base, cues: [cue('heard'), cue('OTHER', 'd')] }, says),
    ])
    const text = async (key: string) =>
      (await documentRow(id, 'captions'))?.document.cues.find((c) => c.id === key)?.text
    const conflicts = async () => (await documentRow(id, 'captions'))?.conflicts
    expect(await text('d')).toBe('OTHER')
    expect(await conflicts()).toEqual([{ list: 'cues', id: 'c', sides: [cue('one'), cue('two')] }])
    await decide(id, 'captions', (await conflicts())![0]!, cue('two'))
    expect([await text('c'), await conflicts()]).toEqual(['two', []])
    let n = 0
    const asked = (at: number) => ({
      ...newQuestionSet('x'),
      checkpoints: [newCheckpoint(recorded(at), () => `q${++n}`)],
    })
    await Promise.all([
      storeDocument(id, 'questions', null, asked(5), says),
      storeDocument(id, 'questions', null, asked(2), says),
    ])
    expect((await documentRow(id, 'questions'))?.document.checkpoints.map((c) => c.at)).toEqual([2, 5])
  })
  it('can be undone and redone, and gone back with to any point; what was undone goes with the next change', async () => {
    const ids = async () => (await edit()).removed.map((r) => r.id)
    for (const [i, name] of ['a', 'b', 'c'].entries()) {
      const one = { ...cut, id: name, from: recorded(10 * i), to: recorded(10 * i + 5) }
      await storeDocument(id, 'edit', await edit(), apply(await edit(), one), { says: `Took out ${name}` })
    }
    const undo = () => goToStep(id, 'edit', (applied) => applied - 1)
    await undo()
    await undo()
    expect(await ids()).toEqual(['a'])
    await goToStep(id, 'edit', (applied) => applied + 1)
    expect(await ids()).toEqual(['a', 'b'])
    await goToStep(id, 'edit', () => 99)
    expect(await ids()).toEqual(['a', 'b', 'c'])
    await goToStep(id, 'edit', () => 1)
    const last = { ...cut, id: 'd', from: recorded(50), to: recorded(55) }
    await storeDocument(id, 'edit', await edit(), apply(await edit(), last), { says: 'Took out d' })
    expect((await stepsOf(`${id}-edit`)).map((s) => [s.seq, s.says])).toEqual([
      [0, 'Took out a'],
      [1, 'Took out d'],
    ])
    for (let n = 0; n < 5; n++) await undo()
    expect([await ids(), (await documentRow(id, 'edit'))?.applied]).toEqual([[], 0])
  })
  it('has what is typed into one field as one step, which goes back at once', async () => {
    let set = { ...newQuestionSet('x'), checkpoints: [] as Documents['questions']['checkpoints'] }
    await storeDocument(id, 'questions', null, set, { says: 'Began' })
    for (const title of ['Ic', 'Ice fl', 'Ice flows']) {
      const next = { ...set, title }
      await storeDocument(id, 'questions', set, next, { says: 'Wrote the title', field: 'title' })
      set = next
    }
    expect((await stepsOf(`${id}-questions`)).map((s) => s.says)).toEqual(['Wrote the title'])
    await goToStep(id, 'questions', (applied) => applied - 1)
    expect((await documentRow(id, 'questions'))?.document.title).toBe('x')
  })
})
