import { describe, expect, it } from 'vitest'
import { createResampler } from './resample'

/** A second of a tone, resampled, without what is near its ends. */
function tone(hertz: number, from: number, to: number): Float32Array {
  const { reach, run } = createResampler(from, to)
  const input = Float32Array.from({ length: from }, (_, n) => Math.sin((2 * Math.PI * hertz * n) / from))
  const skipped = Math.ceil((2 * reach * to) / from)
  return run(input, (skipped * from) / to, to - 3 * skipped).slice()
}
const rms = (x: Float32Array) => Math.sqrt(x.reduce((sum, s) => sum + s * s, 0) / x.length)
const decibels = (share: number) => 20 * Math.log10(share)

describe.each([
  [48_000, 16_000],
  [44_100, 48_000],
  [48_000, 44_100],
  [96_000, 48_000],
])('from %i to %i Hz', (from, to) => {
  it('keeps what both rates can hold, in its place', () => {
    for (const hertz of [100, 1000, 0.36 * Math.min(from, to)]) {
      const out = tone(hertz, from, to)
      expect(Math.abs(decibels(rms(out) * Math.SQRT2))).toBeLessThan(0.05)
      const skipped = Math.ceil((2 * createResampler(from, to).reach * to) / from)
      const meant = out.map((_, n) => Math.sin((2 * Math.PI * hertz * (n + skipped)) / to))
      expect(rms(out.map((s, n) => s - (meant[n] ?? 0)))).toBeLessThan(1e-3)
    }
  })
  it('lets nothing come back folded that the lower rate cannot hold', () => {
    if (to >= from) return
    for (const share of [0.53, 0.6, 0.9]) {
      const hertz = Math.min(share * to, 0.49 * from)
      expect(decibels(rms(tone(hertz, from, to)) * Math.SQRT2)).toBeLessThan(-80)
    }
  })
  it('leaves a steady level at its level', () => {
    const { reach, run } = createResampler(from, to)
    for (const s of run(new Float32Array(4 * reach + 100).fill(0.5), 2 * reach, 20)) expect(s).toBeCloseTo(0.5, 4)
  })
})
