import { describe, expect, it } from 'vitest'
import { recorded } from '../time/units'
import { buildTimeMap } from '../time/time-map'
import { soundAnalyser, type SoundAnalysis } from './analysis'
import { openProposals, pauseThreshold, pauses, usualSilence, type SilenceSettings } from './silence'

const RATE = 8000

/** Speech-like bursts and pauses over steady noise: seconds of speech (positive) and of pause (negative). */
function room(parts: readonly number[], noise: number): Float32Array {
  const total = parts.reduce((sum, p) => sum + Math.abs(p), 0)
  const out = new Float32Array(Math.round(total * RATE))
  let seed = 5
  let at = 0
  for (const part of parts) {
    const end = at + Math.round(Math.abs(part) * RATE)
    for (; at < end; at++) {
      seed = (seed * 16_807) % 2_147_483_647
      const speech = part > 0 ? 0.3 * Math.sin(at / 5) * (0.4 + 0.6 * Math.abs(Math.sin(at / 900))) : 0
      out[at] = speech + noise * ((seed / 2_147_483_647) * 2 - 1)
    }
  }
  return out
}
function analyse(sound: Float32Array, settings: SilenceSettings = usualSilence, size = 3000): SoundAnalysis {
  const analyser = soundAnalyser(RATE, 1, settings)
  for (let i = 0; i < sound.length; i += size) analyser.push([sound.subarray(i, i + size)])
  expect(analyser.seconds).toBeCloseTo(sound.length / RATE, 9)
  return analyser.finish()
}

describe('the analysis of a recording', () => {
  const parts = [-5, 20, -6, 15, -4]
  it.each([0.0001, 0.003, 0.02])('finds its pauses over noise of %d', (noise) => {
    const { silences, proposals } = analyse(room(parts, noise))
    expect(silences.map((s) => [Math.round(s.from), Math.round(s.to)])).toEqual([
      [0, 5],
      [25, 31],
      [46, 50],
    ])
    expect(proposals.map((p) => p.reason)).toEqual(['start', 'pause', 'end'])
  })
  it('takes nothing for silence when noise and speech cannot be told apart', () => {
    expect(analyse(room([-30], 0.2)).silences).toEqual([])
  })
  it('goes by a threshold that is given, to the sample', () => {
    const found = analyse(room(parts, 0.003), { threshold: -40, shortest: 0.5 })
    expect(found.threshold).toBe(-40)
    expect(found.silences[1]!.from).toBeCloseTo(25, 1)
    expect(analyse(room(parts, 0.003), { threshold: -60, shortest: 0.5 }).silences).toEqual([])
  })
  it('does not depend on how the sound is cut up', () => {
    const sound = room([-3, 4, -3.5], 0.002)
    const whole = analyse(sound, usualSilence, sound.length)
    const parts = analyse(sound, usualSilence, 777)
    expect(parts.silences).toEqual(whole.silences)
    expect(parts.noiseFloor).toBeCloseTo(whole.noiseFloor, 3)
    expect(parts.zones).toEqual(whole.zones)
    expect(parts.loudness.integrated).toBeCloseTo(whole.loudness.integrated, 6)
  })
  it('shares the time out among the zones, and finds clipping', () => {
    const sound = room([10], 0)
    sound.fill(1, 3 * RATE, 3 * RATE + 400)
    sound.fill(-1, 7 * RATE, 7 * RATE + 2)
    const { zones, clipping } = analyse(sound)
    expect(Object.values(zones).reduce((sum, z) => sum + z, 0)).toBeCloseTo(1, 9)
    expect(zones.clipping).toBeCloseTo(0.02, 3)
    expect(clipping.map((c) => Math.round(c.from))).toEqual([3, 7])
    expect(clipping[0]!.to - clipping[0]!.from).toBeCloseTo(0.05, 2)
  })
})

describe('pauses', () => {
  it('go on over a click, and end with a word', () => {
    const tops = new Float32Array(1000).fill(0.3)
    tops.fill(0.001, 200, 600)
    tops.fill(0.3, 400, 408)
    expect(pauses(tops, 100, -40, 0.5)).toEqual([{ from: 2, to: 6 }])
    tops.fill(0.3, 400, 430)
    expect(pauses(tops, 100, -40, 0.5)).toEqual([
      { from: 2, to: 4 },
      { from: 4.3, to: 6 },
    ])
  })
  it('are looked for below speech and above the room', () => {
    expect(pauseThreshold(new Float32Array(100))).toBe(-45)
    expect(pauseThreshold(Float32Array.from({ length: 100 }, (_, i) => (i < 30 ? 0.01 : 0.5)))).toBeCloseTo(-32, 0)
    expect(pauseThreshold(Float32Array.from({ length: 100 }, (_, i) => (i < 30 ? 0.0001 : 0.5)))).toBe(-45)
  })
})

describe('proposals', () => {
  it('that were taken out are not made again', () => {
    const proposal = (from: number, to: number) => ({
      from: recorded(from),
      to: recorded(to),
      reason: 'pause' as const,
      says: '',
    })
    const map = buildTimeMap(recorded(100), [{ from: recorded(10), to: recorded(20) }])
    expect(openProposals(map, [proposal(10, 19), proposal(18, 30), proposal(50, 55)]).map((p) => p.from)).toEqual([
      18, 50,
    ])
  })
})
