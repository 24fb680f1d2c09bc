import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { buildAxis, pointAt, resultToPixel, tiles, tickStep, toPixel, toTime } from './axis'
import { frameCount, frameLength, snapToFrame } from './frames'
import { subtract, totalLength, union } from './ranges'
import {
  buildTimeMap,
  carryOver,
  insertAt,
  nextKept,
  projectInstants,
  projectRange,
  seenFrom,
  toRecorded,
  toRecordedEnd,
  toResult,
} from './time-map'
import { formatTimecode, parseTimecode, sayDuration } from './timecode'
import { projectChapters } from '../marks/chapters'
import { recorded, result, type RecordedRange } from './units'

const range = (from: number, to: number): RecordedRange => ({ from: recorded(from), to: recorded(to) })
const DURATION = 100
/** Ranges on a grid of 1/30 s, as an edit makes them; they may overlap and reach outside. */
const ranges = fc.array(
  fc
    .tuple(fc.integer({ min: -60, max: 3060 }), fc.integer({ min: 1, max: 900 }))
    .map(([a, n]) => range(a / 30, (a + n) / 30)),
  { maxLength: 12 },
)
const instant = fc.integer({ min: 0, max: DURATION * 30 }).map((n) => recorded(n / 30))

describe('the time map', () => {
  it('keeps and removes exactly what is asked for', () => {
    const map = buildTimeMap(recorded(10), [range(2, 3), range(5, 7)])
    expect(map.length).toBeCloseTo(7, 9)
    expect(map.kept.map((k) => [k.from, k.to, k.at])).toEqual([
      [0, 2, 0],
      [3, 5, 2],
      [7, 10, 4],
    ])
    expect(toResult(map, recorded(4))).toEqual({ kind: 'kept', at: 3 })
    expect(toResult(map, recorded(6))).toEqual({ kind: 'removed', at: 4, removed: { from: 5, to: 7 } })
    expect(toRecorded(map, result(4))).toBe(7)
    expect(toResult(map, recorded(10))).toEqual({ kind: 'kept', at: 7 })
  })

  it('has the length of what is kept', () => {
    fc.assert(
      fc.property(ranges, (removed) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        expect(map.length + totalLength(map.removed)).toBeCloseTo(DURATION, 6)
        expect(totalLength(map.kept)).toBeCloseTo(map.length, 6)
      }),
    )
  })

  it('ends before a seam and before what is put in, and begins behind', () => {
    const map = buildTimeMap(recorded(10), [range(2, 3), range(9, 10)], [{ id: 'card', at: recorded(5), length: 4 }])
    const both = (t: number) => [toRecordedEnd(map, result(t)), toRecorded(map, result(t))]
    expect(both(2)).toEqual([2, 3])
    expect(both(4)).toEqual([5, 5])
    expect(both(6)).toEqual([5, 5])
    expect(both(8)).toEqual([5, 5])
    expect(both(12)).toEqual([9, 9])
    expect(both(0)).toEqual([0, 0])
    expect(toRecordedEnd(buildTimeMap(recorded(4), [range(0, 4)]), result(0))).toBe(0)
  })

  it('comes back to the same instant of the result from either end', () => {
    fc.assert(
      fc.property(ranges, fc.double({ min: 0, max: 1, noNaN: true }), (removed, share) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const time = result(share * map.length)
        expect(toResult(map, toRecordedEnd(map, time)).at).toBeCloseTo(time, 5)
        expect(toRecordedEnd(map, time)).toBeLessThanOrEqual(toRecorded(map, time) + 1e-5)
      }),
    )
  })

  it('keeps the order of time', () => {
    fc.assert(
      fc.property(ranges, instant, instant, (removed, a, b) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const [early, late] = a <= b ? [a, b] : [b, a]
        expect(toResult(map, early).at).toBeLessThanOrEqual(toResult(map, late).at + 1e-9)
      }),
    )
  })

  it('agrees both ways', () => {
    fc.assert(
      fc.property(ranges, instant, (removed, t) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const there = toResult(map, t)
        if (there.kind === 'removed') return
        const back = toRecorded(map, there.at)
        // At a seam two recorded instants share one instant of the result; the later is given back.
        expect(back).toBeGreaterThanOrEqual(t - 1e-6)
        const again = toResult(map, back)
        expect(again.at).toBeCloseTo(there.at, 6)
      }),
    )
  })

  it('says removed for exactly what lies in a removed range', () => {
    fc.assert(
      fc.property(ranges, instant, (removed, t) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const inside = map.removed.some((r) => t >= r.from && (t < r.to || (t === DURATION && r.to === DURATION)))
        expect(toResult(map, t).kind).toBe(inside ? 'removed' : 'kept')
      }),
    )
  })

  it('projects a stretch to one piece when nothing is put in, as long as what is left of it', () => {
    fc.assert(
      fc.property(ranges, instant, instant, (removed, a, b) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const stretch = range(Math.min(a, b), Math.max(a, b))
        const { pieces, lost } = projectRange(map, stretch)
        const left = pieces.reduce((sum, p) => sum + p.to - p.from, 0)
        expect(pieces.length).toBeLessThanOrEqual(1)
        expect(left + lost).toBeCloseTo(stretch.to - stretch.from, 6)
        for (const piece of pieces) expect(piece.to).toBeLessThanOrEqual(map.length + 1e-6)
      }),
    )
  })

  it('skips to the next kept instant, or says that nothing follows', () => {
    const map = buildTimeMap(recorded(10), [range(2, 4), range(8, 10)])
    expect(nextKept(map, recorded(1))).toBe(1)
    expect(nextKept(map, recorded(2))).toBe(4)
    expect(nextKept(map, recorded(9))).toBeNull()
  })

  it('reports what fell into a removed part instead of dropping it', () => {
    const map = buildTimeMap(recorded(10), [range(4, 6)])
    const { visible, lost } = projectInstants(map, [{ t: 1 }, { t: 5 }, { t: 9 }], (x) => recorded(x.t))
    expect(visible.map((v) => [v.item.t, v.at])).toEqual([
      [1, 1],
      [9, 7],
    ])
    expect(lost).toEqual([{ item: { t: 5 }, removed: { from: 4, to: 6 } }])
  })

  it('is empty when everything is removed', () => {
    const map = buildTimeMap(recorded(10), [range(0, 10)])
    expect(map.length).toBe(0)
    expect(toResult(map, recorded(5)).kind).toBe('removed')
    expect(projectRange(map, range(1, 2))).toEqual({ pieces: [], lost: 1 })
  })
})

describe('a map with something put in', () => {
  const put = (at: number, length: number, id = 'x') => ({ id, at: recorded(at), length })
  it('shifts what follows and splits the stretch it stands in', () => {
    const map = buildTimeMap(recorded(10), [range(6, 8)], [put(4, 3)])
    expect(map.kept.map((k) => [k.from, k.to, k.at])).toEqual([
      [0, 4, 0],
      [4, 6, 7],
      [8, 10, 9],
    ])
    expect(map.length).toBe(11)
    expect(toResult(map, recorded(5))).toEqual({ kind: 'kept', at: 8 })
    expect(insertAt(map, result(5))?.into).toBe(1)
    expect(insertAt(map, result(7))).toBeNull()
    expect(toRecorded(map, result(5))).toBe(4)
  })
  it('stands at the seam when its instant was taken out, and at both ends', () => {
    const map = buildTimeMap(
      recorded(10),
      [range(0, 2), range(9, 10)],
      [put(1, 3, 'start'), put(10, 2, 'end'), put(1, 1, 'next')],
    )
    expect(map.inserts.map((i) => [i.id, i.at])).toEqual([
      ['start', 0],
      ['next', 3],
      ['end', 11],
    ])
    expect(map.kept.map((k) => [k.from, k.at])).toEqual([[2, 4]])
  })
  it('parts a stretch, which is seen before and after it and not over it', () => {
    const map = buildTimeMap(recorded(10), [range(4.5, 4.6)], [put(4, 60)])
    expect(projectRange(map, range(3, 5)).pieces).toEqual([
      { from: 3, to: 4 },
      { from: 64, to: expect.closeTo(64.9, 9) as number },
    ])
    expect(projectRange(map, range(2, 4)).pieces).toEqual([{ from: 2, to: 4 }])
    expect(projectRange(map, range(4, 4.4)).pieces).toEqual([{ from: 64, to: expect.closeTo(64.4, 9) as number }])
  })
  it('goes there and back, whatever was taken out and put in', () => {
    const inserts = fc.array(
      fc
        .tuple(fc.integer({ min: 0, max: 100 }), fc.integer({ min: 1, max: 9 }))
        .map(([at, length]) => put(at, length, `i${at}`)),
      { maxLength: 6 },
    )
    fc.assert(
      fc.property(ranges, inserts, fc.double({ min: 0, max: 99.9, noNaN: true }), (removed, list, t) => {
        const map = buildTimeMap(recorded(DURATION), removed, list)
        const pieces = [...map.kept.map((k) => ({ at: k.at, length: k.to - k.from })), ...map.inserts].sort(
          (a, b) => a.at - b.at || a.length - b.length,
        )
        let end = 0
        for (const piece of pieces) {
          expect(piece.at).toBeCloseTo(end, 6)
          end += piece.length
        }
        expect(map.length).toBeCloseTo(end, 6)
        const there = toResult(map, recorded(t))
        if (there.kind === 'kept' && t < DURATION) expect(toRecorded(map, there.at)).toBeCloseTo(t, 6)
      }),
    )
  })
})

describe('what lasts until the next, slides and chapters,', () => {
  it('is there wherever something of it is kept, from the first of that on', () => {
    fc.assert(
      fc.property(ranges, fc.uniqueArray(instant, { maxLength: 12 }), (removed, starts) => {
        const map = buildTimeMap(recorded(DURATION), removed)
        const items = starts.sort((a, b) => a - b).map((at, i) => ({ id: String(i), at, title: '' }))
        const seen = seenFrom(map, items)
        for (const [i, item] of items.entries()) {
          const to = items[i + 1]?.at ?? recorded(DURATION)
          const [piece] = projectRange(map, { from: item.at, to }).pieces
          const found = seen.find((s) => s.id === item.id)
          expect(found !== undefined).toBe(piece !== undefined)
          if (found && piece) expect(toResult(map, found.at)).toMatchObject({ kind: 'kept', at: piece.from })
        }
        const chapters = projectChapters(items, map).visible.map(({ item, at }) => [item.id, at])
        expect(chapters).toEqual(seen.map((s) => [s.id, toResult(map, s.at).at]))
      }),
    )
  })
})

describe('sets of ranges', () => {
  it('joins what touches and drops what is empty', () => {
    expect(union([range(3, 4), range(1, 2), range(2, 3), range(7, 7)])).toEqual([range(1, 4)])
  })
  it('union and subtraction share the whole between them', () => {
    fc.assert(
      fc.property(ranges, (list) => {
        const folded = union(list.map((r) => range(Math.max(0, r.from), Math.min(DURATION, r.to))))
        const rest = subtract(range(0, DURATION), folded)
        expect(totalLength(folded) + totalLength(rest)).toBeCloseTo(DURATION, 6)
        for (const [i, r] of folded.entries()) expect(r.from).toBeGreaterThan(folded[i - 1]?.to ?? -1)
      }),
    )
  })
})

describe('the axis', () => {
  const map = buildTimeMap(recorded(100), [range(10, 20), range(50, 80)])
  it('folds removed parts into seams and shows opened ones to scale', () => {
    const axis = buildAxis(map, 4, 12, (r) => r.from === 50)
    expect(axis.pieces.map((p) => [p.kind, p.x, p.width])).toEqual([
      ['kept', 0, 40],
      ['seam', 40, 12],
      ['kept', 52, 120],
      ['opened', 172, 120],
      ['kept', 292, 80],
    ])
    expect(axis.width).toBe(372)
  })
  it('finds room for pictures side by side, in view and never across a seam', () => {
    const axis = buildAxis(map, 4, 12, () => false)
    const all = tiles(axis, 30, 0, axis.width)
    expect(all.slice(0, 3).map((t) => [t.x, t.width, t.at])).toEqual([
      [0, 30, 3.75],
      [30, 10, 8.75],
      [52, 30, 23.75],
    ])
    for (const tile of all) expect(toPixel(axis, tile.at)).toBeCloseTo(tile.x + tile.width / 2, 6)
    expect(tiles(axis, 30, 60, 90).map((t) => t.x)).toEqual([52, 82])
  })
  it('goes from time to pixel and back', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 100, noNaN: true }), fc.boolean(), (t, open) => {
        const axis = buildAxis(map, 7, 12, () => open)
        expect(toTime(axis, toPixel(axis, recorded(t)))).toBeCloseTo(t, 6)
      }),
    )
  })
  const inserts = fc
    .array(fc.tuple(instant, fc.integer({ min: 1, max: 400 })), { maxLength: 6 })
    .map((all) => all.map(([at, n], i) => ({ id: `i${i}`, at, length: n / 30 })))
  it('shows what is put in to scale, after the seam that it stands at', () => {
    const put = [
      { id: 'start', at: recorded(0), length: 5 },
      { id: 'gone', at: recorded(15), length: 3 },
      { id: 'end', at: recorded(100), length: 2 },
    ]
    const axis = buildAxis(buildTimeMap(recorded(100), [range(10, 20)], put), 2, 12, () => false)
    expect(axis.pieces.map((p) => [p.kind, p.id, p.x, p.width, p.at])).toEqual([
      ['insert', 'start', 0, 10, 0],
      ['kept', '', 10, 20, 5],
      ['seam', '', 30, 12, 15],
      ['insert', 'gone', 42, 6, 15],
      ['kept', '', 48, 160, 18],
      ['insert', 'end', 208, 4, 98],
    ])
    expect(pointAt(axis, 44)).toMatchObject({ recorded: 15, result: 16, piece: { id: 'gone' } })
    expect(toPixel(axis, recorded(0))).toBe(10)
    expect(resultToPixel(axis, result(99))).toBe(210)
  })
  it('has a place for every instant of the result, in order, and finds it again', () => {
    fc.assert(
      fc.property(ranges, inserts, fc.double({ min: 0, max: 1, noNaN: true }), (removed, put, part) => {
        const around = buildTimeMap(recorded(DURATION), removed, put)
        const axis = buildAxis(around, 5, 12, (r) => Math.round(r.from) % 2 === 0)
        expect(axis.seen.reduce((sum, p) => sum + p.length, 0)).toBeCloseTo(around.length, 6)
        for (const [i, p] of axis.pieces.entries())
          expect(p.x).toBeCloseTo((axis.pieces[i - 1]?.x ?? 0) + (axis.pieces[i - 1]?.width ?? 0), 6)
        for (const [i, p] of axis.recorded.entries()) expect(p.from).toBeCloseTo(axis.recorded[i - 1]?.to ?? 0, 6)
        const t = result(part * around.length)
        const point = pointAt(axis, resultToPixel(axis, t))
        if (around.length > 0) expect(point?.result).toBeCloseTo(t, 5)
      }),
    )
  })
  it('keeps the playhead on what it stood on when the edit changes', () => {
    fc.assert(
      fc.property(ranges, ranges, inserts, fc.double({ min: 0, max: 1, noNaN: true }), (one, other, put, part) => {
        const before = buildTimeMap(recorded(DURATION), one, put)
        const after = buildTimeMap(recorded(DURATION), other, put)
        const t = result(part * before.length)
        expect(carryOver(before, before, t)).toBeCloseTo(t, 6)
        const on = insertAt(before, t)?.insert.id
        const then = carryOver(before, after, t)
        if (before.length > 0 && t >= before.length - 1e-9) expect(then).toBe(after.length)
        else if (on)
          expect(then).toBeCloseTo(
            (after.inserts.find((i) => i.id === on)?.at ?? 0) + (insertAt(before, t)?.into ?? 0),
            6,
          )
        else expect(then).toBe(toResult(after, toRecorded(before, t)).at)
      }),
    )
  })
  it('spaces its marks so that they can be read', () => {
    for (const scale of [0.01, 0.5, 3, 40, 900])
      expect(tickStep(scale, 80) * scale).toBeGreaterThanOrEqual(Math.min(80, 7200 * scale))
  })
})

describe('timecodes', () => {
  it.each([
    [0, 0, '0:00'],
    [59.9996, 3, '1:00.000'],
    [61.5, 1, '1:01.5'],
    [3661.25, 2, '1:01:01.25'],
    [-3, 0, '0:00'],
  ])('writes %d s', (t, d, text) => {
    expect(formatTimecode(t, d)).toBe(text)
  })
  it.each([
    ['90', 90],
    ['1:30', 90],
    ['1:01:01.25', 3661.25],
    [' 0:05,5 ', 5.5],
    ['1:5', null],
    ['1:60', null],
    ['1:75:00', null],
    ['a', null],
    ['', null],
    ['-3', null],
    ['1:00:5', null],
  ])('reads “%s”', (text, seconds) => {
    expect(parseTimecode(text)).toBe(seconds)
  })
  it('reads what it writes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 35_000_000 }), (ms) => {
        expect(parseTimecode(formatTimecode(ms / 1000, 3))).toBeCloseTo(ms / 1000, 6)
      }),
    )
  })
  it('says lengths as a person would', () => {
    expect([0.44, 12, 60, 200, 3600, 7500].map(sayDuration)).toEqual([
      '0.4 s',
      '12 s',
      '1 min',
      '3 min 20 s',
      '1 h',
      '2 h 5 min',
    ])
  })
})

describe('frames', () => {
  it('snaps to the nearest frame, and not at all for sound', () => {
    expect(snapToFrame(1.02, 25)).toBeCloseTo(1.04, 9)
    expect(snapToFrame(1.0123, 0)).toBe(1.0123)
    expect([frameCount(2, 15), frameLength(25), frameLength(0)]).toEqual([30, 0.04, 0.01])
  })
})
