import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { newTrack } from '#core/captions/track'
import type { DocumentName } from '#core/documents/kinds'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { addTrack } from './caption-tracks'
import { documentRow, storeDocument } from './documents'
import { createLecture } from './lectures'
import { findIn, replaceAll, sayFound, takeBack, textsIn, type Replaced } from './replacing'

const cue = (id: string, text: string, from: number) => ({ id, from: recorded(from), to: recorded(from + 1), text })
const wanted = { find: 'sir ack', replace: 'serac', wholeWords: true, matchCase: false }
let [first, second] = ['', '']
const texts = async (id: string, name: DocumentName<'captions'> = 'captions') =>
  (await documentRow(id, name))?.document.cues.map((c) => c.text)

beforeEach(async () => {
  await Promise.all(db.tables.map((table) => table.clear()))
  first = await createLecture('ps201', 1, 'Ice')
  second = await createLecture('ps201', 2, 'Snow')
  await createLecture('ps115', 1, 'Elsewhere')
  for (const id of [first, second])
    await storeDocument(
      id,
      'captions',
      null,
      newTrack({ cues: [cue('a', 'a Sir ack', 1), cue('b', 'ice', 3)] }, 'person'),
      {
        says: '',
      },
    )
  await addTrack(first, 'translation', 'fr', newTrack({ cues: [cue('f', 'un sir ack', 1)] }, 'person'))
})

describe('finding and replacing', () => {
  it('reaches as far as it is told to', async () => {
    expect(await findIn({ lectureId: first, name: 'captions' }, wanted)).toHaveLength(1)
    expect(await findIn({ lectureId: first }, wanted)).toHaveLength(2)
    const all = await findIn({ courseId: 'ps201' }, wanted)
    expect(all.map((f) => [f.title, f.says])).toEqual([
      ['Ice', 'English captions'],
      ['Ice', 'French translation'],
      ['Snow', 'English captions'],
    ])
    expect(sayFound(all)).toBe('3 times in 2 lectures')
    expect(await findIn({ courseId: 'ps115' }, wanted)).toEqual([])
  })
  it('reads no further once nobody waits for it', async () => {
    const ended = new AbortController()
    ended.abort()
    expect(await textsIn({ courseId: 'ps201' }, ended.signal)).toEqual([])
  })
  it('says what is done, which can be taken back where the rest fails', async () => {
    const told: Replaced[] = []
    const all = await findIn({ courseId: 'ps201' }, wanted)
    const failing = replaceAll(all, wanted, (soFar) => {
      told.push(soFar)
      if (soFar.lectureIds.length === 1) throw new Error('The disk is full.')
    })
    await expect(failing).rejects.toThrow('The disk is full.')
    expect(told.map((t) => [t.lectureIds, t.count])).toEqual([
      [[], 0],
      [[first], 2],
    ])
    expect([await texts(first), await texts(second)]).toEqual([
      ['a serac', 'ice'],
      ['a Sir ack', 'ice'],
    ])
    expect(await takeBack(told[1]!)).toBe(0)
    expect(await texts(first)).toEqual(['a Sir ack', 'ice'])
  })
  it('changes what was chosen in a whole course, and is taken back at once', async () => {
    const all = await findIn({ courseId: 'ps201' }, wanted)
    const done = await replaceAll([all[0]!, all[2]!], wanted)
    expect(done.count).toBe(2)
    expect([await texts(first), await texts(second)]).toEqual([
      ['a serac', 'ice'],
      ['a serac', 'ice'],
    ])
    expect(await texts(first, 'captions-translation-fr')).toEqual(['un sir ack'])
    expect(await takeBack(done)).toBe(0)
    expect([await texts(first), await texts(second)]).toEqual([
      ['a Sir ack', 'ice'],
      ['a Sir ack', 'ice'],
    ])
    expect(await takeBack(done)).toBe(0)
  })
  it('leaves what was changed after it was found, and says where it cannot be taken back', async () => {
    const all = await findIn({ courseId: 'ps201' }, wanted)
    const track = (await documentRow(first, 'captions'))!.document
    await storeDocument(
      first,
      'captions',
      track,
      { ...track, cues: [cue('a', 'the sir ack', 1), track.cues[1]!] },
      { says: 'x' },
    )
    const done = await replaceAll(all, wanted)
    expect(await texts(first)).toEqual(['the sir ack', 'ice'])
    expect(done.count).toBe(2)
    const later = (await documentRow(second, 'captions'))!.document
    await storeDocument(second, 'captions', later, { ...later, cues: [later.cues[0]!] }, { says: 'Deleted a cue' })
    expect(await takeBack(done)).toBe(1)
    expect(await texts(second)).toEqual(['a serac'])
    expect(await texts(first, 'captions-translation-fr')).toEqual(['un sir ack'])
  })
})
