import { describe, expect, test } from 'vitest'
import { carried, carriers, comingParts, jumpingFiles, partsAt } from './playing'
import type { Script, SoundSpan, Span } from './script'

const box = { x: 0, y: 0, width: 640, height: 360 }
const picture = (at: number, length: number, feed: number | null, from = 0): Span => ({
  ...{ at, length, light: [1, 1], whole: null },
  layers: feed === null ? [] : [{ kind: 'feed', feed, from, box, clip: null, edged: false }],
})
const sound = (at: number, length: number, from: number | null): SoundSpan => ({
  ...{ at, length },
  source: from === null ? null : { kind: 'feed', feed: 1, from },
})
/** Kept 0–8 and 11–20, a card of 2 s, and on from 20; the picture is divided once more at 4. */
const script: Script = {
  length: 29,
  frame: { width: 640, height: 360 },
  picture: [
    picture(0, 4, 0, 0),
    picture(4, 4, 0, 4),
    picture(8, 9, 0, 11),
    picture(17, 2, null),
    picture(19, 10, 0, 20),
  ],
  sound: [sound(0, 8, 0), sound(8, 9, 11), sound(17, 2, null), sound(19, 10, 20)],
  sounds: true,
  treatment: { noise: 'keep', loudness: null, truePeak: -1 },
}

describe('what plays', () => {
  test('is told with the sound first', () => {
    expect(partsAt(script, 5)).toEqual([
      { source: 'feed 1', from: 0, at: 0, end: 8, gain: 1 },
      { source: 'feed 0', from: 4, at: 4, end: 8 },
    ])
    expect(partsAt(script, 18)).toEqual([])
  })
})

describe('what comes', () => {
  test('is a jump of each file, however the picture is divided before', () => {
    expect(comingParts(script, 1, 4)).toEqual([])
    expect(comingParts(script, 1, 8).map((p) => [p.source, p.from, p.at])).toEqual([
      ['feed 1', 11, 8],
      ['feed 0', 11, 8],
    ])
  })
  test('is not what only waits while something else is shown', () => {
    expect(comingParts(script, 9, 20)).toEqual([])
  })
  test('is what was hidden for a while and has gone on unseen', () => {
    const hidden = { ...script, picture: [picture(0, 4, 0, 0), picture(4, 4, null), picture(8, 8, 0, 8)], sound: [] }
    expect(comingParts(hidden, 1, 20).map((p) => [p.source, p.from, p.at])).toEqual([['feed 0', 8, 8]])
  })
  test('is a file that begins', () => {
    const later = { ...script, picture: [picture(0, 4, null), picture(4, 4, 2, 0)], sound: [] }
    expect(comingParts(later, 1, 4).map((p) => [p.source, p.at])).toEqual([['feed 2', 4]])
  })
  test('is only what is near, and of each file the first', () => {
    const often = { ...script, picture: [picture(0, 2, 0, 0), picture(2, 2, 0, 5), picture(4, 2, 0, 9)], sound: [] }
    expect(comingParts(often, 0, 10).map((p) => p.from)).toEqual([5])
    expect(comingParts(often, 2, 10).map((p) => p.from)).toEqual([9])
  })
})

describe('a jump', () => {
  test('follows on the same file, and is not where a file begins', () => {
    expect([...jumpingFiles(script, 1, 8, 4)]).toEqual(['feed 1', 'feed 0'])
    const begins = { ...script, picture: [picture(0, 0.1, null), picture(0.1, 9, 0, 0)], sound: [] }
    expect(jumpingFiles(begins, 0, 8, 4).size).toBe(0)
  })
  test('is one too after a short while without, and not after a long one', () => {
    const apart = (gap: number): Script => ({
      ...script,
      picture: [picture(0, 5, 0, 0), picture(5, gap, null), picture(5 + gap, 9, 0, 40)],
      sound: [],
    })
    expect([...jumpingFiles(apart(2), 0, 20, 4)]).toEqual(['feed 0'])
    expect(jumpingFiles(apart(6), 0, 20, 4).size).toBe(0)
  })
})

describe('a sound that is in the file of a picture', () => {
  const feeds = [
    { kind: 'screen', offset: 0.2 },
    { kind: 'sound', offset: 0.2 },
    { kind: 'camera', offset: 0 },
  ] as const
  test('is played by it', () => {
    expect([...carriers(feeds, ['film', 'film', 'other'])]).toEqual([[1, 0]])
    const shared = carried(script, new Map([[1, 0]]))
    expect(partsAt(shared, 5)).toEqual([{ source: 'feed 0', from: 0, at: 0, end: 8, gain: 1 }])
    expect(comingParts(shared, 1, 8).map((p) => [p.source, p.from, p.at])).toEqual([['feed 0', 11, 8]])
  })
  test('is not where what is played of it is another file, or it begins elsewhere', () => {
    expect(carriers(feeds, ['film', 'treated', 'other']).size).toBe(0)
    expect(carriers(feeds, ['', '', '']).size).toBe(0)
    expect(carriers(feeds, ['other', 'film', 'film']).size).toBe(0)
  })
  test('goes on with the picture when it is silent for a while', () => {
    const pause = {
      ...script,
      picture: [picture(0, 30, 0)],
      sound: [sound(0, 4, 0), sound(4, 2, null), sound(6, 24, 6)],
    }
    expect(comingParts(carried(pause, new Map([[1, 0]])), 1, 20)).toEqual([])
  })
  test('is also where it is heard beneath another', () => {
    const beneath: SoundSpan = {
      ...{ at: 0, length: 8, source: { kind: 'asset', file: 'clip', from: 0 } },
      beneath: { source: { kind: 'feed', feed: 1, from: 0 }, gain: 0.2 },
    }
    const parts = partsAt(carried({ ...script, sound: [beneath] }, new Map([[1, 0]])), 5)
    expect(parts.map((p) => p.source)).toEqual(['asset clip', 'feed 0'])
  })
})
