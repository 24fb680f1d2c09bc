import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newTrack, setState } from '#core/captions/track'
import { newEdit } from '#core/edit/edit'
import { apply } from '#core/edit/edit'
import type { CaptionTrack } from '#core/schema/captions'
import { recorded } from '#core/time/units'
import { db, type ReleaseRow } from '~/db/database'
import {
  addTrack,
  captionsOut,
  deleteTrack,
  followCaptions,
  isWorkedOn,
  setTrackState,
  trackName,
} from './caption-tracks'
import { lectureFacts, loadParts } from './cards'
import { documentRow, stepsOf, storeDocument, travel } from './documents'
import { documentsOf, fingerprints } from './fingerprint'
import { copyLecture, createLecture, deleteLecture } from './lectures'
import { bringBack, changesSince, deleteRevision, keepRevision, partsAsOf, revisionsOf } from './revisions'

let id = ''
const cue = (text: string, from = 1) => ({ id: `c${from}`, from: recorded(from), to: recorded(from + 1), text })
const english = newTrack({ cues: [cue('ice'), cue('snow', 21)] }, 'person')
const fr = trackName('translation', 'fr')
const change = (track: CaptionTrack, before: CaptionTrack | null, name: 'captions' | typeof fr = 'captions') =>
  storeDocument(id, name, before, track, { says: 'Changed' })
const trackOf = async (name: 'captions' | typeof fr) => (await documentRow(id, name))?.document ?? null

/** What the server was sent, and how it answers. */
let sent: { url: string; body: { version: string; captions: { language: string; text: string }[] } }[] = []
let status = 204

beforeEach(async () => {
  await Promise.all(db.tables.map((table) => table.clear()))
  sent = []
  status = 204
  vi.stubGlobal('fetch', (url: string, init: RequestInit) => {
    sent.push({ url, body: JSON.parse(String(init.body)) as (typeof sent)[number]['body'] })
    const answer = status === 204 ? null : JSON.stringify({ message: 'The lecture was published meanwhile.' })
    return Promise.resolve(new Response(answer, { status }))
  })
  await db.courses.put({ id: 'ps201', code: 'PS 201', title: 'Ice', termId: 'term' })
  id = await createLecture('ps201', 1, 'Ice')
  await storeDocument(id, 'edit', null, newEdit(recorded(60), 25), { says: '' })
  await change(english, null)
})
afterEach(() => vi.unstubAllGlobals())

/** Says that the lecture as it is now was published, as the server's version `v1`. */
async function publish(): Promise<void> {
  const parts = (await loadParts(id))!
  const release: ReleaseRow = {
    ...{ lectureId: id, publicationId: id, version: 'v1', asked: {}, publishedAt: '2026-11-27T10:00:00.000Z' },
    ...fingerprints(parts),
    revisionId: await keepRevision(id, 'As published'),
  }
  await db.releases.put(release)
}

describe('a further track', () => {
  it('begins with the times and words of the first, once for each language', async () => {
    expect(await addTrack(id, 'translation', 'fr', english)).toBe(fr)
    const track = await trackOf(fr)
    expect(track).toMatchObject({ language: 'fr', role: 'translation', state: 'draft', source: 'person' })
    expect(track!.cues).toEqual(english.cues)
    await expect(addTrack(id, 'translation', 'fr', null)).rejects.toThrow(
      'There is a track of French translation already',
    )
    // The same language as captions is another track.
    expect(await addTrack(id, 'captions', 'fr', null)).toBe('captions-captions-fr')
  })
  it('has a history of its own, and one doing in several is undone in all', async () => {
    await addTrack(id, 'translation', 'fr', null)
    const doing = { says: 'Replaced', doneAt: '2030-01-01T00:00:00.000Z' }
    const [before, french] = [(await trackOf('captions'))!, (await trackOf(fr))!]
    await storeDocument(id, 'captions', before, { ...before, cues: [cue('glacier')] }, doing)
    await storeDocument(id, fr, french, { ...french, cues: [cue('glacier')] }, doing)
    await travel(id, [fr], 'undo')
    expect((await trackOf(fr))!.cues).toEqual([])
    expect((await trackOf('captions'))!.cues).toEqual(english.cues)
    await travel(id, ['captions'], 'redo')
    expect((await trackOf(fr))!.cues).toHaveLength(1)
    expect((await stepsOf(`${id}-${fr}`)).map((s) => s.says)).toEqual(['Replaced'])
  })
  it('is kept in revisions and copies, and goes with its lecture', async () => {
    await addTrack(id, 'translation', 'fr', english)
    const revision = await keepRevision(id, 'both')
    const french = (await trackOf(fr))!
    await change({ ...french, cues: [cue('glace')] }, french, fr)
    expect(await changesSince(revision)).toMatchObject([{ kind: 'captions', how: 'changed' }, { how: 'dropped' }])
    expect(documentsOf(await partsAsOf((await loadParts(id))!, revision), 'captions').map((d) => d.name)).toEqual([
      'captions',
      fr,
    ])
    const copy = await copyLecture(id, 'Copy')
    expect((await documentRow(copy, fr))?.document.cues).toEqual([cue('glace')])
    await bringBack((await revisionsOf(id))[0]!.id)
    expect((await trackOf(fr))!.cues).toEqual(english.cues)
    await deleteTrack(id, fr)
    expect(await trackOf(fr)).toBeNull()
    expect(await stepsOf(`${id}-${fr}`)).toEqual([])
    await deleteLecture(copy)
    expect(await db.documents.where('lectureId').equals(copy).count()).toBe(0)
  })
  it('is worked on unless it is a recogniser’s draft as it was made', async () => {
    const draft = newTrack({ cues: [{ id: 'x', from: recorded(1), to: recorded(2), text: 'ice' }] }, 'recogniser')
    const own = await createLecture('ps201', 3, 'Draft')
    expect(await isWorkedOn(own, 'captions')).toBe(false)
    await storeDocument(own, 'captions', null, draft, { says: 'Drafted' })
    expect(await isWorkedOn(own, 'captions')).toBe(false)
    const edited = { ...draft, cues: [{ ...draft.cues[0]!, text: 'Ice' }] }
    await storeDocument(own, 'captions', draft, edited, { says: 'Wrote' })
    expect(await isWorkedOn(own, 'captions')).toBe(true)
    await storeDocument(own, 'captions', edited, { ...draft, source: 'file' }, { says: 'Read' })
    expect(await isWorkedOn(own, 'captions')).toBe(true)
  })
  it('does not stand for captions of what is said', async () => {
    await addTrack(id, 'translation', 'fr', english)
    await setTrackState(id, fr, 'on')
    expect(lectureFacts((await loadParts(id))!).captions).toBe('draft')
  })
})

describe('what students see of captions', () => {
  it('follows what is switched on, in the time of what was published, and once', async () => {
    const parts = (await loadParts(id))!
    expect(parts.release).toBeNull()
    expect(await captionsOut(id)).toBe('none')
    await publish()
    // Since then the lecture was cut, which students do not see yet.
    const edit = (await documentRow(id, 'edit'))!.document
    const cut = apply(edit, { do: 'remove', id: 'r', from: recorded(10), to: recorded(20) })
    await storeDocument(id, 'edit', edit, cut, { says: 'Cut' })
    await setTrackState(id, 'captions', 'on')
    expect(await captionsOut(id)).toBe('other')
    expect(await followCaptions(id, () => Promise.resolve(true))).toBe(true)
    expect(sent).toHaveLength(1)
    expect(sent[0]).toMatchObject({ url: `/api/publications/${id}/captions`, body: { version: 'v1' } })
    expect(sent[0]!.body.captions[0]!.text).toContain('00:00:21.000 --> 00:00:22.000\nsnow')
    expect(await captionsOut(id)).toBe('same')
    expect(lectureFacts((await loadParts(id))!).published).toBe('outdated')
    await followCaptions(id, () => Promise.resolve(true))
    expect(sent).toHaveLength(1)
    // Switched off, they are not to be seen any more.
    await setTrackState(id, 'captions', 'draft')
    await followCaptions(id, () => Promise.resolve(true))
    expect(sent[1]!.body.captions).toEqual([])
  })
  it('stays as it was without signing in, and where the server refuses, and is said to be outdated', async () => {
    await publish()
    await setTrackState(id, 'captions', 'on')
    expect(await followCaptions(id, () => Promise.resolve(false))).toBe(false)
    status = 409
    await expect(followCaptions(id, () => Promise.resolve(true))).rejects.toThrow('published meanwhile')
    expect(await captionsOut(id)).toBe('other')
    expect(lectureFacts((await loadParts(id))!)).toMatchObject({ captions: 'on', published: 'outdated' })
  })
  it('cannot follow where what was published is not known any more, which is said', async () => {
    await publish()
    await setTrackState(id, 'captions', 'on')
    for (const { id: revision } of await revisionsOf(id)) await deleteRevision(revision)
    // Of the same edit it is known all the same.
    expect(await followCaptions(id, () => Promise.resolve(true))).toBe(true)
    const edit = (await documentRow(id, 'edit'))!.document
    await storeDocument(id, 'edit', edit, { ...edit, fade: 1 }, { says: 'Faded' })
    await setTrackState(id, 'captions', 'draft')
    await expect(followCaptions(id, () => Promise.resolve(true))).rejects.toThrow('Publish the lecture again')
    expect(sent).toHaveLength(1)
  })
  it('is what was checked, where the course says so', async () => {
    expect(await setTrackState(id, 'captions', 'checked')).toBe('checked')
    await db.courses.update('ps201', { captionsGoOn: true })
    expect(await setTrackState(id, 'captions', 'checked')).toBe('on')
    expect(await setTrackState(id, 'captions', 'draft')).toBe('draft')
    expect(setState(english, 'on').state).toBe('on')
  })
})
