import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { releaseState } from '../course/release'
import { shiftWeeks, weeksSince } from '../course/shift'
import { newTrack, setState } from '../captions/track'
import { readVtt } from '../captions/vtt'
import { checkPublication, partCount, partSize, projectLecture } from '../packages/publication'
import { newQuestionSet } from '../questions/grade'
import { Lecture } from '../schema/lecture'
import { PART_SIZE, type PublicationKeys, type PublicationManifest } from '../schema/publication'
import type { Checkpoint } from '../schema/questions'
import { InvalidDocument, parseAs } from '../schema/validate'
import { buildTimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import { readiness, type LectureFacts } from './readiness'

const facts: LectureFacts = { recording: 'whole', tidied: true, captions: 'on', uncaptioned: 0, asked: { complete: 1, unfinished: 0, lost: 0 }, place: { from: '2026-11-01T00:00:00.000Z', until: null }, published: 'current', now: '2026-11-23T00:00:00.000Z' }

describe('readiness', () => {
  it('is complete when everything is', () => {
    const r = readiness(facts)
    expect(Object.values(r.marks).map((m) => m.state)).toEqual(['done', 'done', 'done', 'done', 'done'])
    expect(r.next).toBeNull()
  })
  it.each<[Partial<LectureFacts>, string, string]>([
    [{ recording: 'none' }, 'recorded', 'Record or bring in'],
    [{ recording: 'settling' }, 'recorded', 'Wait a moment'],
    [{ recording: 'broken' }, 'recorded', 'Look at the recording'],
    [{ tidied: false }, 'tidied', 'Tidy'],
    [{ captions: null }, 'captioned', 'Draft captions'],
    [{ captions: 'draft' }, 'captioned', 'Check captions'],
    [{ captions: 'checked' }, 'captioned', 'Switch captions on'],
    [{ uncaptioned: 1 }, 'captioned', 'Caption a take'],
    [{ captions: null, uncaptioned: 1 }, 'captioned', 'Draft captions'],
    [{ asked: { complete: 0, unfinished: 0, lost: 0 } }, 'asked', 'Ask a question'],
    [{ asked: { complete: 1, unfinished: 1, lost: 0 } }, 'asked', 'Finish a question'],
    [{ asked: { complete: 1, unfinished: 0, lost: 1 } }, 'asked', 'Move a question'],
    [{ published: 'no', place: null }, 'released', 'Publish'],
    [{ published: 'outdated' }, 'released', 'Publish again'],
    [{ place: { from: '2026-10-01T00:00:00.000Z', until: '2026-10-02T00:00:00.000Z' } }, 'released', 'Extend its release'],
  ])('names the next thing to do (%j)', (patch, mark, says) => {
    expect(readiness({ ...facts, ...patch }).next).toEqual({ mark, says })
  })
  it('tells captions that are checked from captions that students see', () => {
    expect(readiness({ ...facts, captions: 'checked' }).marks.captioned).toEqual({ state: 'begun', says: 'Captions are checked but not switched on' })
  })
})

describe('release windows', () => {
  const window = { from: '2026-11-10T08:00:00.000Z', until: '2026-11-20T08:00:00.000Z' }
  it.each([['2026-11-10T07:59:59.999Z', 'waiting'], ['2026-11-10T08:00:00.000Z', 'released'], ['2026-11-20T07:59:59.999Z', 'released'], ['2026-11-20T08:00:00.000Z', 'over']])('at %s it is %s', (now, state) => {
    expect(releaseState(window, now)).toBe(state)
  })
  it('without an end never close', () => {
    expect(releaseState({ ...window, until: null }, '2099-01-01T00:00:00.000Z')).toBe('released')
  })
})

describe('moving the demo term', () => {
  it('moves every date and instant by whole weeks and nothing else', () => {
    const doc = { startsOn: '2026-10-26', at: '2026-11-02T08:00:00.000Z', title: '2026', n: 3, list: [{ until: null }] }
    expect(shiftWeeks(doc, 2)).toEqual({ startsOn: '2026-11-09', at: '2026-11-16T08:00:00.000Z', title: '2026', n: 3, list: [{ until: null }] })
    expect(shiftWeeks(shiftWeeks(doc, 7), -7)).toEqual(doc)
  })
  it('counts weeks from a Monday', () => {
    expect(weeksSince('2026-11-23', Date.parse('2026-11-29T23:59:00Z'))).toBe(0)
    expect(weeksSince('2026-11-23', Date.parse('2026-11-30T00:00:00Z'))).toBe(1)
    expect(weeksSince('2026-11-23', Date.parse('2026-11-22T12:00:00Z'))).toBe(-1)
  })
})

describe('what goes out', () => {
  const map = buildTimeMap(recorded(20), [{ from: recorded(4), to: recorded(8) }])
  const ask = (id: string, at: number, prompt = 'What?'): Checkpoint => ({ id: `cp-${id}`, at: recorded(at), question: { id, kind: 'one-right', prompt, choices: [{ id: 'a', text: 'ice' }, { id: 'b', text: 'snow' }], hint: '', points: 1 }, key: { questionId: id, right: 'a', explanation: 'a secret' } })
  const set = { ...newQuestionSet('x'), checkpoints: [ask('late', 15), ask('gone', 5), ask('early', 2), ask('half', 9, '')] }
  const track = newTrack({ cues: [{ id: 'c1', from: recorded(9), to: recorded(10), text: 'after' }, { id: 'c2', from: recorded(5), to: recorded(6), text: 'inside' }] }, 'person')

  it('is in result time, without what was removed or is unfinished, and says so', () => {
    const out = projectLecture(map, setState(track, 'on'), set)
    expect(out.checkpoints.map((c) => [c.question.id, c.at])).toEqual([['early', 2], ['late', 11]])
    expect(readVtt(out.captions ?? '', () => 'c').cues.map((c) => [c.from, c.text])).toEqual([[5, 'after']])
    expect(out.lost.checkpoints.map((c) => c.question.id)).toEqual(['gone'])
    expect(out.lost.unfinished.map((c) => c.question.id)).toEqual(['half'])
    expect(out.lost.captions.map((l) => l.cue.id)).toEqual(['c2'])
  })
  it('holds no captions before they are on, and no key among the questions', () => {
    const out = projectLecture(map, setState(track, 'checked'), set)
    expect(out.captions).toBeNull()
    expect(JSON.stringify(out.checkpoints)).not.toContain('a secret')
    expect(out.keys.map((k) => k.questionId).sort()).toEqual(['early', 'late'])
  })
})

describe('a publication', () => {
  const hash = 'a'.repeat(64)
  const manifest: PublicationManifest = {
    format: 'thaw-publication', version: 1, id: 'pub', title: 't', description: '', language: 'en', duration: 10, width: 2, height: 2, madeAt: '2026-11-23T00:00:00.000Z',
    files: [{ name: 'media.mp4', type: 'video/mp4', size: PART_SIZE + 1, parts: [hash, hash] }],
    checkpoints: [{ id: 'cp', at: 5, question: { id: 'q', kind: 'one-right', prompt: 'p', choices: [{ id: 'a', text: '1' }, { id: 'b', text: '2' }], hint: '', points: 1 } }],
  }
  const keys: PublicationKeys = { format: 'thaw-keys', version: 1, publicationId: 'pub', keys: [{ questionId: 'q', right: 'a', explanation: '' }] }

  it('is cut into parts that add up', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 5 * PART_SIZE }), (size) => {
      const sizes = Array.from({ length: partCount(size) }, (_, i) => partSize(size, i))
      expect(sizes.reduce((a, b) => a + b, 0)).toBe(size)
      expect(Math.min(...sizes)).toBeGreaterThan(0)
    }))
  })
  it('that fits together is taken', () => {
    expect(() => checkPublication(manifest, keys)).not.toThrow()
  })
  it.each<[string, PublicationManifest, PublicationKeys]>([
    ['too few parts', { ...manifest, files: [{ name: 'media.mp4', type: 'video/mp4', size: PART_SIZE + 1, parts: [hash] }] }, keys],
    ['no media', { ...manifest, files: [{ name: 'captions.vtt', type: 'text/vtt', size: 1, parts: [hash] }] }, keys],
    ['the wrong kind', { ...manifest, files: [{ name: 'media.mp4', type: 'text/vtt', size: 1, parts: [hash] }] }, keys],
    ['a missing key', manifest, { ...keys, keys: [] }],
    ['a key without a question', manifest, { ...keys, keys: [...keys.keys, { questionId: 'z', right: 'a', explanation: '' }] }],
    ['a key that names no choice', manifest, { ...keys, keys: [{ questionId: 'q', right: 'z', explanation: '' }] }],
    ['keys of another', manifest, { ...keys, publicationId: 'other' }],
    ['a question behind the end', { ...manifest, duration: 3 }, keys],
  ])('with %s is refused', (_, m, k) => {
    expect(() => checkPublication(m, k)).toThrow(InvalidDocument)
  })
})

describe('the gate', () => {
  const lecture = { id: 'l1', courseId: 'c1', week: 1, title: 'T', description: '', createdAt: '2026-11-23T00:00:00.000Z' }
  it('lets through what fits', () => {
    expect(parseAs(Lecture, lecture, 'lecture')).toEqual(lecture)
  })
  it.each([
    ['a path for an id', { ...lecture, id: '../../etc/passwd' }],
    ['control characters in a title', { ...lecture, title: 'a\u0000b' }],
    ['a week of 0', { ...lecture, week: 0 }],
    ['a date that is none', { ...lecture, createdAt: 'yesterday' }],
    ['a field too many', { ...lecture, admin: true }],
    ['null', null],
  ])('refuses %s', (_, data) => {
    expect(() => parseAs(Lecture, data, 'lecture')).toThrow(/^This lecture cannot be used: /)
  })
})
