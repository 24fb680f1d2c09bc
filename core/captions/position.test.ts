import { describe, expect, it } from 'vitest'
import type { Script } from '../render/script'
import type { Cue } from '../schema/captions'
import { buildTimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import { checkCues, mendAll, mendCue, MEASURES } from './checks'
import { coveringCues, isFootWritten, laidAtFoot, placeOf, places, setPlace, standingOf } from './position'
import { newTrack } from './track'

const cue = (id: string, from: number, to: number, settings?: string): Cue => ({
  id,
  from: recorded(from),
  to: recorded(to),
  text: 'what is said here',
  ...(settings && { settings }),
})
const whole = { width: 1280, height: 720 }
const box = (x: number, y: number, width: number, height: number) => ({ x, y, width, height })
const text = { kind: 'text', words: 'x' } as never

describe('where a cue stands', () => {
  it.each([
    [undefined, 'foot', 'center'],
    ['line:0', 'top', 'center'],
    ['line:10%,start align:left', 'top', 'left'],
    ['line:85% position:20% align:end', 'foot', 'right'],
    ['line:-1 align:middle', 'foot', 'center'],
    ['align:start size:40%', 'foot', 'left'],
    ['line:nonsense', 'foot', 'center'],
  ] as const)('%s is %s, %s', (settings, line, align) => {
    expect(standingOf({ settings })).toEqual({ line, align })
  })
  it('is what was chosen, and other settings stay', () => {
    let track = newTrack({ cues: [cue('a', 0, 2, 'line:3 position:10% size:40% region:r')] }, 'person')
    for (const place of places) {
      track = setPlace(track, 'a', place)
      expect(placeOf(track.cues[0]!)).toBe(place)
      expect(track.cues[0]?.settings).toMatch(/^size:40% region:r/)
    }
    expect(setPlace(newTrack({ cues: [cue('a', 0, 2, 'line:0')] }, 'person'), 'a', 'foot').cues[0]).not.toHaveProperty(
      'settings',
    )
  })
})

describe('what stands at the foot', () => {
  it('is a text, picture or drawing that reaches into it, and no card, mask or mark in a corner', () => {
    const at = (layers: Script['picture'][number]['layers'], n: number) => ({
      ...{ at: n, length: 1, layers, light: [1, 1] as const, whole: null },
    })
    const script = {
      frame: whole,
      picture: [
        at([{ kind: 'still', still: text, box: box(200, 600, 400, 100), clip: null }], 0),
        at([{ kind: 'still', still: text, box: box(200, 300, 400, 100), clip: null }], 1),
        at([{ kind: 'still', still: text, box: box(1190, 640, 80, 60), clip: null }], 2),
        at([{ kind: 'mask', how: 'blur', box: box(200, 600, 400, 100), clip: null }], 3),
        at([{ kind: 'still', still: text, box: box(200, 500, 400, 200), clip: box(0, 0, 1280, 560) }], 4),
      ],
    } as unknown as Script
    expect(laidAtFoot(script)).toEqual([{ from: 0, to: 1 }])
  })
  it('is written where letters are, and not by a page number or a plain ground', () => {
    const [width, height] = [320, 180]
    const picture = (isInk: (x: number, y: number) => boolean) => {
      const rgba = new Uint8ClampedArray(4 * width * height).fill(240)
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) if (isInk(x, y)) rgba.fill(20, 4 * (y * width + x), 4 * (y * width + x) + 3)
      return rgba
    }
    const letters = (x: number, y: number) => y % 9 < 5 && x % 3 === 0
    expect(
      isFootWritten(
        picture((x, y) => y > 155 && x > 60 && x < 250 && letters(x, y)),
        width,
        height,
      ),
    ).toBe(true)
    expect(
      isFootWritten(
        picture((x, y) => y < 140 && letters(x, y)),
        width,
        height,
      ),
    ).toBe(false)
    expect(
      isFootWritten(
        picture((x, y) => y > 165 && x > 270 && letters(x, y)),
        width,
        height,
      ),
    ).toBe(false)
    // A bar along the foot has an edge, and nothing written on it.
    expect(
      isFootWritten(
        picture((_, y) => y > 160),
        width,
        height,
      ),
    ).toBe(false)
  })
})

describe('cues over what stands at the foot', () => {
  // Seconds 4 to 6 are taken out.
  const map = buildTimeMap(recorded(20), [{ from: recorded(4), to: recorded(6) }])
  const cues = [cue('a', 0, 2), cue('b', 7, 9), cue('c', 10, 12, 'line:0'), cue('d', 13, 15)]
  const covering = coveringCues(cues, map, [{ from: 5, to: 9 }], [{ from: recorded(14), to: recorded(20) }])
  it('are found in the result and in the recording, unless they stand elsewhere', () => {
    expect([...covering]).toEqual(['b', 'd'])
  })
  it('are a problem that is mended by moving them up', () => {
    const measures = MEASURES.lectures
    const track = newTrack({ cues }, 'person')
    expect(checkCues(cues, measures, covering).map((p) => [p.cueId, p.kind])).toEqual([
      ['b', 'covers'],
      ['d', 'covers'],
    ])
    const { track: mended, left } = mendAll(track, 'covers', measures, () => 'x', covering)
    expect(left).toBe(0)
    expect(mended.cues.map((c) => c.settings)).toEqual([undefined, 'line:0', 'line:0', 'line:0'])
  })
  it('are one problem where something stands there all the time, mended at once', () => {
    const all = Array.from({ length: 104 }, (_, i) => cue(`c${i}`, 2 * i, 2 * i + 2))
    const clock = new Set(all.slice(1).map((c) => c.id))
    expect(checkCues(all, MEASURES.lectures, clock)).toEqual([
      {
        cueId: 'c1',
        kind: 'covers',
        says: 'It and the next 102 cues cover what is shown at the foot of the picture.',
      },
    ])
    const mended = mendCue(newTrack({ cues: all }, 'person'), 'c1', 'covers', MEASURES.lectures, () => 'x', clock)
    expect(checkCues(mended.cues, MEASURES.lectures, clock)).toEqual([])
    expect(mended.cues[0]).toEqual(all[0])
  })
})
