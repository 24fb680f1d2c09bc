import { describe, expect, it } from 'vitest'
import { bestReleaseState, releaseEnd, releaseState } from '../course/release'
import { shiftWeeks, weeksSince } from '../course/shift'
import { Lecture } from '../schema/lecture'
import { parseAs } from '../schema/validate'
import { readiness, type LectureFacts } from './readiness'

const facts: LectureFacts = {
  recording: 'whole',
  tidied: true,
  captions: 'on',
  uncaptioned: 0,
  asked: { complete: 1, unfinished: 0, lost: 0 },
  places: [{ from: '2026-11-01T00:00:00.000Z', until: null }],
  published: 'current',
  now: '2026-11-23T00:00:00.000Z',
}

describe('readiness', () => {
  it('is complete when everything is', () => {
    const r = readiness(facts)
    expect(Object.values(r.marks).map((m) => m.state)).toEqual(['done', 'done', 'done', 'done', 'done'])
    expect(r.next).toBeNull()
  })
  it.each<[Partial<LectureFacts>, string, string, string?]>([
    [{ recording: 'none' }, 'recorded', 'Record or bring in'],
    [{ recording: 'settling' }, 'recorded', 'Wait a moment'],
    [{ recording: 'broken' }, 'recorded', 'Look at the recording'],
    [{ tidied: false }, 'tidied', 'Tidy'],
    [{ captions: null }, 'captioned', 'Draft captions'],
    [{ captions: 'draft' }, 'captioned', 'Check captions'],
    [{ captions: 'checked' }, 'captioned', 'Switch captions on', 'captions-on'],
    [{ uncaptioned: 1 }, 'captioned', 'Caption a take'],
    [{ captions: null, uncaptioned: 1 }, 'captioned', 'Draft captions'],
    [{ asked: { complete: 0, unfinished: 0, lost: 0 } }, 'asked', 'Ask a question'],
    [{ asked: { complete: 1, unfinished: 1, lost: 0 } }, 'asked', 'Finish a question'],
    [{ asked: { complete: 1, unfinished: 0, lost: 1 } }, 'asked', 'Move a question'],
    [{ published: 'no', places: [] }, 'released', 'Publish'],
    [{ places: [] }, 'released', 'Publish'],
    [{ published: 'outdated' }, 'released', 'Publish again'],
    [
      { places: [{ from: '2026-10-01T00:00:00.000Z', until: '2026-10-02T00:00:00.000Z' }] },
      'released',
      'Extend its release',
    ],
  ])('names the next thing to do (%j)', (patch, mark, says, press) => {
    expect(readiness({ ...facts, ...patch }).next).toEqual({ mark, says, ...(press && { press }) })
  })
  it('tells captions that are checked from captions that students see', () => {
    const marks = (patch: Partial<LectureFacts>) => readiness({ ...facts, ...patch }).marks.captioned
    const says = 'Captions are checked but not switched on'
    expect(marks({ captions: 'checked', published: 'no' })).toEqual({ state: 'begun', says })
  })
  it('says of what is published without captions that it is', () => {
    for (const captions of [null, 'draft', 'checked'] as const)
      for (const published of ['current', 'outdated'] as const) {
        const { marks, next } = readiness({ ...facts, captions, published })
        expect(marks.captioned).toMatchObject({ state: 'begun', says: expect.stringMatching(/^Published without/) })
        expect(next?.mark).toBe('captioned')
      }
  })
})

describe('release windows', () => {
  it('of several places are open when one is, and end with the last', () => {
    const over = { from: '2026-10-01T00:00:00.000Z', until: '2026-10-02T00:00:00.000Z' }
    const open = { from: '2026-11-01T00:00:00.000Z', until: '2026-12-01T00:00:00.000Z' }
    const later = { from: '2027-01-01T00:00:00.000Z', until: null }
    const state = (...places: (typeof over | typeof later)[]) => bestReleaseState(places, facts.now)
    expect([state(over, open), state(over, later), state(later, open), state(over)]).toEqual([
      'released',
      'waiting',
      'released',
      'over',
    ])
    expect([releaseEnd([over, open]), releaseEnd([open, later]), releaseEnd([])]).toEqual([open.until, null, null])
  })
  const window = { from: '2026-11-10T08:00:00.000Z', until: '2026-11-20T08:00:00.000Z' }
  it.each([
    ['2026-11-10T07:59:59.999Z', 'waiting'],
    ['2026-11-10T08:00:00.000Z', 'released'],
    ['2026-11-20T07:59:59.999Z', 'released'],
    ['2026-11-20T08:00:00.000Z', 'over'],
  ])('at %s it is %s', (now, state) => {
    expect(releaseState(window, now)).toBe(state)
  })
  it('without an end never close', () => {
    expect(releaseState({ ...window, until: null }, '2099-01-01T00:00:00.000Z')).toBe('released')
  })
})

describe('moving the demo term', () => {
  it('moves every date and instant by whole weeks and nothing else', () => {
    const doc = { startsOn: '2026-10-26', at: '2026-11-02T08:00:00.000Z', title: '2026', n: 3, list: [{ until: null }] }
    expect(shiftWeeks(doc, 2)).toEqual({
      startsOn: '2026-11-09',
      at: '2026-11-16T08:00:00.000Z',
      title: '2026',
      n: 3,
      list: [{ until: null }],
    })
    expect(shiftWeeks(shiftWeeks(doc, 7), -7)).toEqual(doc)
  })
  it('counts weeks from a Monday', () => {
    expect(weeksSince('2026-11-23', Date.parse('2026-11-29T23:59:00Z'))).toBe(0)
    expect(weeksSince('2026-11-23', Date.parse('2026-11-30T00:00:00Z'))).toBe(1)
    expect(weeksSince('2026-11-23', Date.parse('2026-11-22T12:00:00Z'))).toBe(-1)
  })
})

describe('the gate', () => {
  const lecture = {
    id: 'l1',
    courseId: 'c1',
    week: 1,
    title: 'T',
    description: '',
    createdAt: '2026-11-23T00:00:00.000Z',
  }
  it('lets through what fits', () => {
    expect(parseAs(Lecture, lecture, 'lecture')).toEqual(lecture)
  })
  it.each([
    ['a path for an id', { ...lecture, id: '../../etc/passwd' }],
    ['control characters in a title', { ...lecture, title: 'a\u0000b' }],
    ['a week of 0', { ...lecture, week: 0 }],
    ['a date that is none', { ...lecture, createdAt: 'yesterday' }],
    ['a thirteenth month', { ...lecture, createdAt: '2099-13-01T00:00:00.000Z' }],
    ['a thirty-first of June', { ...lecture, createdAt: '2026-06-31T00:00:00.000Z' }],
    ['an hour of 24', { ...lecture, createdAt: '2026-06-30T24:00:00.000Z' }],
    ['a field too many', { ...lecture, admin: true }],
    ['null', null],
  ])('refuses %s', (_, data) => {
    expect(() => parseAs(Lecture, data, 'lecture')).toThrow(/^This lecture cannot be used: /)
  })
})
