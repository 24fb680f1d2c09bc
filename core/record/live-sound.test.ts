import { describe, expect, it } from 'vitest'
import { liveSound, type StereoBlock } from './live-sound'

const RATE = 48_000
const FRAMES = 480
const ones = () => new Float32Array(FRAMES).fill(1)

describe('live sound', () => {
  it('is made louder, and a change is reached without a step', () => {
    let gain = 1
    const process = liveSound(() => gain)
    process(0, RATE, [ones()])
    gain = 0.25
    const [changing] = process(0.01, RATE, [ones()])
    const left = changing!.planes.subarray(0, FRAMES)
    expect(left[0]).toBeGreaterThan(0.99)
    expect(left.at(-1)).toBeCloseTo(0.25, 6)
    for (let i = 1; i < FRAMES; i++) expect(left[i - 1]! - left[i]!).toBeCloseTo(0.75 / FRAMES, 5)
    const [changed] = process(0.02, RATE, [ones()])
    expect(new Set(changed!.planes)).toEqual(new Set([0.25]))
  })
  it('has two channels, whatever the microphone has', () => {
    const process = liveSound(() => 1)
    const half = new Float32Array(FRAMES).fill(0.5)
    const sides = ([block]: StereoBlock[]) => [block!.planes[0], block!.planes[FRAMES], block!.planes.length]
    expect(sides(process(0, RATE, [half]))).toEqual([0.5, 0.5, 2 * FRAMES])
    expect(sides(process(0.01, RATE, [half, ones()]))).toEqual([0.5, 1, 2 * FRAMES])
    expect(sides(process(0.02, RATE, [ones(), half, half, half]))).toEqual([1, 0.5, 2 * FRAMES])
  })
  it('is silent where the device gave nothing, in pieces of at most a second that meet', () => {
    const process = liveSound(() => 1)
    process(0, RATE, [ones()])
    const blocks = process(60, RATE, [ones()])
    const silence = blocks.slice(0, -1)
    expect(blocks.at(-1)).toMatchObject({ at: 60, planes: new Float32Array(2 * FRAMES).fill(1) })
    let at = 0.01
    for (const piece of silence) {
      expect(piece.at).toBeCloseTo(at, 6)
      expect(piece.planes.length).toBeLessThanOrEqual(2 * RATE)
      expect(piece.planes.some((s) => s !== 0)).toBe(false)
      at += piece.planes.length / 2 / RATE
    }
    expect(at).toBeCloseTo(60, 6)
    expect(new Set(silence.map((p) => p.planes.buffer)).size).toBe(1)
  })
})
