import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { apply, editTimeMap, lengthen, newEdit } from '../edit/edit'
import { recorded, type RecordedRange } from '../time/units'
import { writeScript } from '../render/script'
import type { Feed, Take } from '../schema/lecture'
import type { ProposedCut } from '../sound/silence'
import { joinPeaks, type PeakLevel } from '../sound/peaks'
import {
  joinSound,
  joinTakes,
  selectFeed,
  pictureOf,
  placeAfter,
  recordingState,
  shownFeeds,
  takeAt,
  uncaptioned,
  withIds,
} from './recording'

const feed = (kind: Feed['kind'], change: Partial<Feed> = {}): Feed => ({
  id: kind,
  kind,
  label: kind,
  fileId: `f-${kind}`,
  offset: 0,
  duration: 10,
  width: kind === 'sound' ? 0 : 640,
  height: kind === 'sound' ? 0 : 480,
  frameRate: kind === 'sound' ? 0 : 24,
  ...change,
})
const take = (id: string, change: Partial<Take> = {}): Take => ({
  id,
  lectureId: 'l',
  state: 'whole',
  startedAt: '2026-11-23T09:00:00Z',
  duration: 10,
  feeds: [feed('sound'), feed('camera')],
  pauses: [],
  note: '',
  ...change,
})
const two = () => {
  const recording = joinTakes([
    take('a', { markers: [2], slides: [{ at: 1, title: 'Ice' }] }),
    take('b', {
      at: 10,
      duration: 5,
      feeds: [feed('sound', { offset: 0.1, duration: 4.9 }), feed('camera', { duration: 5 })],
      markers: [3],
    }),
  ])
  if (!recording) throw new Error('none')
  return recording
}
const range = (from: number, to: number): RecordedRange => ({ from: recorded(from), to: recorded(to) })

describe('the recording of a lecture', () => {
  it('is its whole takes end to end, with all that belongs to them in its own time', () => {
    const recording = two()
    expect(recording.duration).toBe(15)
    expect(recording.takes.map((t) => [t.id, t.from, t.to])).toEqual([
      ['a', 0, 10],
      ['b', 10, 15],
    ])
    expect(recording.feeds.map((f) => [f.takeId, f.kind, f.offset])).toEqual([
      ['a', 'sound', 0],
      ['a', 'camera', 0],
      ['b', 'sound', 10.1],
      ['b', 'camera', 10],
    ])
    expect(recording.markers).toEqual([2, 13])
    expect(recording.takes.map((t) => t.slides)).toEqual([[{ at: 1, title: 'Ice' }], null])
  })
  it('leaves out what is not whole, whatever the order it comes in', () => {
    expect(joinTakes([take('a', { state: 'settling' }), take('b', { state: 'broken' })])).toBeNull()
    expect(
      joinTakes([take('b', { at: 10 }), take('x', { state: 'discarded' }), take('a')])?.takes.map((t) => t.id),
    ).toEqual(['a', 'b'])
  })
  it('knows which take is seen, also before the start and after the end', () => {
    expect([-1, 0, 9.99, 10, 14, 99].map((t) => takeAt(two(), t).id)).toEqual(['a', 'a', 'a', 'b', 'b', 'b'])
  })
  it('has no gap between takes, where a frame begins a little after or before the end of what was recorded', () => {
    for (const at of [9.98, 10, 10.02]) {
      const takes = joinTakes([take('a'), take('b', { at })])?.takes ?? []
      expect(takes.map((t) => [t.from, t.to])).toEqual([
        [0, at],
        [at, at + 10],
      ])
    }
  })
  it('shows students the first feed of each kind in a take', () => {
    const recording = joinTakes([
      take('a', {
        feeds: [
          feed('camera', { label: 'lectern' }),
          feed('camera', { id: 'camera-2', label: 'board' }),
          feed('sound'),
        ],
      }),
    ])
    expect(recording && shownFeeds(recording).map((f) => f.label)).toEqual(['lectern', 'sound'])
    expect(recording && shownFeeds(recording, new Set(['camera-2'])).map((f) => f.label)).toEqual([
      'lectern',
      'board',
      'sound',
    ])
    expect(shownFeeds(two()).map((f) => `${f.takeId} ${f.kind}`)).toEqual([
      'a sound',
      'a camera',
      'b sound',
      'b camera',
    ])
  })
  it('lets another feed of a kind be shown by changing places, and back', () => {
    const all = [
      feed('camera', { fileId: 'front' }),
      feed('sound', { fileId: 'film' }),
      feed('camera', { id: 'camera-2', fileId: 'side' }),
      feed('screen', { fileId: 'deck' }),
    ]
    const ids = (feeds: Feed[] | null) => feeds?.map((f) => f.fileId)
    const other = selectFeed(all, { kind: 'camera', fileId: 'side' })
    expect(ids(other)).toEqual(['side', 'film', 'front', 'deck'])
    expect(other?.map((f) => f.id)).toEqual(['camera', 'sound', 'camera-2', 'screen'])
    expect(selectFeed(other ?? [], { kind: 'camera', fileId: 'front' })).toEqual(all)
    expect(selectFeed(all, { kind: 'sound', fileId: 'film' })).toEqual(all)
    expect([
      selectFeed(all, { kind: 'sound', fileId: 'side' }),
      selectFeed([], { kind: 'sound', fileId: 'film' }),
    ]).toEqual([null, null])
  })
  it('names feeds by their kind, and number from the second on', () => {
    const kinds = ['camera', 'sound', 'camera', 'screen', 'camera'] as const
    expect(withIds(kinds.map((kind) => ({ kind }))).map((f) => f.id)).toEqual([
      'camera',
      'sound',
      'camera-2',
      'screen',
      'camera-3',
    ])
  })
  it('has the screen stand for a take, or the camera where no screen was', () => {
    expect(
      [[feed('camera'), feed('screen')], [feed('sound'), feed('camera')], [feed('sound')]].map(
        (all) => pictureOf(all)?.kind,
      ),
    ).toEqual(['screen', 'camera', undefined])
  })
  it('knows in which of its takes nothing is captioned, as far as there is sound', () => {
    const without = (...at: number[]) =>
      uncaptioned(
        two(),
        at.map((from) => ({ from: recorded(from) })),
      ).map((t) => t.id)
    expect([without(), without(3), without(10), without(3, 12)]).toEqual([['a', 'b'], ['b'], ['a'], []])
    const silent = joinTakes([take('a', { feeds: [feed('camera')] })])
    expect(silent && uncaptioned(silent, [])).toEqual([])
  })
  it('is in the state of the take that still needs something', () => {
    const of = (...states: Take['state'][]) => recordingState(states.map((state) => ({ state })))
    expect([
      of(),
      of('whole'),
      of('whole', 'settling'),
      of('settling', 'recording'),
      of('broken', 'whole'),
      of('broken'),
      of('discarded'),
    ]).toEqual(['none', 'whole', 'settling', 'recording', 'whole', 'broken', 'none'])
  })
  it('has what was found in each take at its place, without what was left', () => {
    const cut = (from: number, to: number): ProposedCut => ({ ...range(from, to), reason: 'pause', says: 'A pause.' })
    const sound = { proposals: [cut(1, 2), cut(3, 4)], clipping: [range(0.5, 0.6)], silences: [range(2, 2.5)] } as never
    const { proposals, clipping, silences } = joinSound(
      two(),
      new Map([
        ['a', { sound, left: [3] }],
        ['b', { sound }],
      ]),
    )
    expect(proposals.map((p) => [p.takeId, p.own, p.from, p.to])).toEqual([
      ['a', 1, 1, 2],
      ['b', 1, 11, 12],
      ['b', 3, 13, 14],
    ])
    expect(clipping).toEqual([range(0.5, 0.6), range(10.5, 10.6)])
    expect(silences).toEqual([range(2, 2.5), range(12, 12.5)])
  })
})

describe('an edit over a recording that grows', () => {
  it('keeps what was taken out, and leaves no sliver where the end was', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 5000, noNaN: true }),
        fc.constantFrom(0, 10, 15, 24, 30, 29.97),
        fc.double({ min: 0.5, max: 100, noNaN: true }),
        (length, rate, more) => {
          const end = recorded(length)
          const trimmed = apply(newEdit(end, rate), {
            do: 'remove',
            id: 'end',
            from: recorded(length * 0.8),
            to: end,
            reason: 'trim',
          })
          const at = placeAfter(length, rate)
          const longer = lengthen(trimmed, recorded(at + more))
          const { kept } = editTimeMap(longer)
          expect(kept).toHaveLength(2)
          expect(kept[1]?.from).toBeCloseTo(at, 9)
          expect(kept[1]?.to).toBe(longer.duration)
          expect(longer.removed[0]?.from).toBe(trimmed.removed[0]?.from)
        },
      ),
    )
  })
  it('is never made shorter', () => {
    expect(lengthen(newEdit(recorded(60), 24), recorded(30)).duration).toBe(60)
  })
  it('is rendered from the feeds of each take in its turn, without a gap', () => {
    const { feeds, duration } = two()
    const script = writeScript(newEdit(duration, 24), feeds, new Map())
    expect(script.length).toBe(15)
    expect(script.picture.map((s) => [s.at, s.whole?.feed])).toEqual([
      [0, 1],
      [10, 3],
    ])
    expect(script.picture[1]?.whole?.from).toBe(0)
    expect(script.sound.filter((s) => s.source).map((s) => [s.source?.kind === 'feed' && s.source.feed, s.at])).toEqual(
      [
        [0, 0],
        [2, 10.1],
      ],
    )
  })
})

describe('joined peaks', () => {
  const levels = (value: number, bins: number): PeakLevel[] =>
    [200, 50].map((binsPerSecond, i) => ({
      binsPerSecond,
      data: new Int8Array(2 * Math.ceil(bins / 4 ** i)).fill(value),
    }))
  it('stand where their sound begins, with silence between', () => {
    const [fine, coarse] = joinPeaks([
      { levels: levels(3, 200), from: 0 },
      { levels: levels(7, 100), from: 1.5 },
    ])
    expect(fine?.binsPerSecond).toBe(200)
    expect(fine?.data.length).toBe(2 * 400)
    expect([fine?.data[399], fine?.data[400], fine?.data[599], fine?.data[600], fine?.data[799]]).toEqual([
      3, 0, 0, 7, 7,
    ])
    expect([coarse?.data[99], coarse?.data[100], coarse?.data[149], coarse?.data[150]]).toEqual([3, 0, 0, 7])
  })
  it('of sound that begins before the take are cut at its start; of none, there are none', () => {
    const data = Int8Array.from({ length: 20 }, (_, i) => i)
    expect(joinPeaks([{ levels: [{ binsPerSecond: 200, data }], from: -0.02 }])[0]?.data).toEqual(data.subarray(8))
    expect(joinPeaks([])).toEqual([])
  })
})
