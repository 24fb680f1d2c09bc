import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { apply, editState, lengthen, newEdit, undo } from '#core/edit/edit'
import { newTrack, setState } from '#core/captions/track'
import { newCheckpoint, newQuestionSet } from '#core/questions/grade'
import type { Take } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { appendChunk } from '~/db/files'
import { createLecture, deleteLecture, fingerprint, lectureFacts, loadBoard, loadCheckedParts, loadParts, storeEdit, type LectureParts } from './lectures'
import { editFrameRate, showFeed } from './takes'

const NOW = '2026-11-23T10:00:00.000Z'
let id = ''

async function parts(): Promise<LectureParts> {
  const found = await loadParts(id)
  if (!found) throw new Error('gone')
  return found
}

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
  id = await createLecture('ps201', 3, 'How ice flows')
  const take: Take = { id: 't1', lectureId: id, state: 'whole', startedAt: NOW, duration: 60, feeds: [{ kind: 'sound', label: 'Sound', fileId: 'f1', offset: 0, duration: 60, width: 0, height: 0, frameRate: 0 }], pauses: [], note: '' }
  await db.takes.put(take)
  await appendChunk('f1', 0, new Uint8Array([1, 2, 3]))
  await db.edits.put({ lectureId: id, edit: newEdit(recorded(60), 24) })
})

describe('a lecture on the board', () => {
  it('is ready for what comes next, from what is truly there', async () => {
    const next = async () => (await loadBoard())[0]?.readiness.next?.says
    expect(await next()).toBe('Tidy')
    const { edit } = await parts()
    await db.edits.put({ lectureId: id, edit: apply(edit!, { do: 'remove', id: 'a', from: recorded(10), to: recorded(20) }) })
    expect(await next()).toBe('Draft captions')
    const track = newTrack({ cues: [{ id: 'c', from: recorded(1), to: recorded(2), text: 'x' }] }, 'person')
    await db.captions.put({ lectureId: id, track: setState(track, 'checked') })
    expect(await next()).toBe('Switch captions on')
    await db.captions.put({ lectureId: id, track: setState(track, 'on') })
    expect(await next()).toBe('Ask a question')
    let n = 0
    const fresh = newCheckpoint(recorded(15), () => `i${++n}`)
    const whole = { ...fresh, question: { ...fresh.question, prompt: 'Why?', choices: fresh.question.choices.map((c, i) => ({ ...c, text: `${i}` })) } }
    await db.questions.put({ lectureId: id, set: { ...newQuestionSet('x'), checkpoints: [fresh] } })
    expect(await next()).toBe('Finish a question')
    await db.questions.put({ lectureId: id, set: { ...newQuestionSet('x'), checkpoints: [whole] } })
    expect(await next()).toBe('Move a question')
    await db.questions.put({ lectureId: id, set: { ...newQuestionSet('x'), checkpoints: [{ ...whole, at: recorded(30) }] } })
    expect(await next()).toBe('Publish')
    const place = { id: 'p', publicationId: 'pub', courseId: 'ps201', week: 3, from: '2026-01-01T00:00:00.000Z', until: null }
    await db.releases.put({ lectureId: id, place, publishedAt: NOW, fingerprint: await fingerprint(await parts()) })
    expect(await next()).toBeUndefined()
    await db.lectures.update(id, { title: 'How ice really flows' })
    expect(await next()).toBe('Publish again')
  })

  it('has the same fingerprint after an edit is undone, and another while it stands', async () => {
    const before = await fingerprint(await parts())
    const edit = apply((await parts()).edit!, { do: 'remove', id: 'a', from: recorded(1), to: recorded(2) })
    expect(await fingerprint({ ...(await parts()), edit })).not.toBe(before)
    expect(await fingerprint({ ...(await parts()), edit: undo(edit) })).toBe(before)
  })

  it('counts captions that are not on as nothing that students would get', async () => {
    const before = await fingerprint(await parts())
    const captions = newTrack({ cues: [{ id: 'c', from: recorded(1), to: recorded(2), text: 'x' }] }, 'person')
    expect(await fingerprint({ ...(await parts()), captions })).toBe(before)
    expect(await fingerprint({ ...(await parts()), captions: setState(captions, 'on') })).not.toBe(before)
  })

  it('has another fingerprint once students are to hear another microphone, and the first again when that is heard again', async () => {
    const take = (await db.takes.get('t1'))!
    await db.takes.update('t1', { feeds: [...take.feeds, { ...take.feeds[0]!, fileId: 'f2' }] })
    const jobs = { start: () => Promise.resolve() } as unknown as Parameters<typeof showFeed>[2]
    const before = await fingerprint(await parts())
    await showFeed('t1', { kind: 'sound', fileId: 'f2' }, jobs)
    expect(await fingerprint(await parts())).not.toBe(before)
    await showFeed('t1', { kind: 'sound', fileId: 'f1' }, jobs)
    expect(await fingerprint(await parts())).toBe(before)
  })

  it('takes everything of its own with it when deleted, and nothing of another', async () => {
    const other = await createLecture('ps201', 4, 'Other')
    await db.peaks.put({ takeId: 't1', levels: [] })
    await deleteLecture(id)
    const left = await Promise.all(db.tables.map(async (t) => [t.name, await t.count()] as const))
    expect(left.filter(([, n]) => n > 0)).toEqual([['lectures', 1]])
    expect(await loadParts(other)).not.toBeNull()
    expect(await loadParts(id)).toBeNull()
  })

  it('with a damaged document is refused in words when it is opened', async () => {
    expect((await loadCheckedParts(id))?.edit?.duration).toBe(60)
    await db.edits.put({ lectureId: id, edit: { ...newEdit(recorded(60), 24), applied: 9 } })
    await expect(loadCheckedParts(id)).rejects.toThrow('This edit document cannot be used: /applied is 9 of 0 commands.')
  })

  it('without a take says so in its facts', async () => {
    const planned = await createLecture('ps201', 5, 'Planned')
    expect(await lectureFacts((await loadParts(planned))!, NOW)).toMatchObject({ recording: 'none', tidied: false, captions: null, published: 'no' })
  })
})

it('edges snap to the finest picture there is', () => {
  const feed = { kind: 'camera' as const, label: '', fileId: 'f', offset: 0, duration: 1, width: 2, height: 2, frameRate: 24 }
  expect(editFrameRate([feed, { ...feed, frameRate: 15 }, { ...feed, frameRate: 0 }])).toBe(24)
  expect(editFrameRate([])).toBe(0)
})

describe('an edit that is changed', () => {
  it('while a further take is placed keeps both the change and the take', async () => {
    const { edit } = await parts()
    const pause = apply(lengthen(edit!, recorded(90)), { do: 'remove', id: 'pause', from: recorded(70), to: recorded(80), reason: 'pause' })
    await db.edits.put({ lectureId: id, edit: pause })
    const cut = (e: typeof pause) => apply(e, { do: 'remove', id: 'mine', from: recorded(10), to: recorded(20) })
    await storeEdit(id, cut(edit!), cut)
    const after = (await parts()).edit!
    expect(after.duration).toBe(90)
    expect(editState(after).removed.map((r) => r.id)).toEqual(['mine', 'pause'])
    await storeEdit(id, undo(after), undo)
    expect(editState((await parts()).edit!).removed.map((r) => r.id)).toEqual(['pause'])
  })
})
