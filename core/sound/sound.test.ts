import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seamGain, SEAM_FADE, softLimit } from './fade'
import { decibels, measure, meterShare, zoneOf } from './level'
import { collectPeaks, FACTOR, FINEST, levelFor, LEVELS, peakBetween } from './peaks'
import { readWavHeader } from './wav'

describe('peaks', () => {
  const sine = (seconds: number, rate: number, amplitude = 0.5) =>
    Float32Array.from(
      { length: Math.round(seconds * rate) },
      (_, i) => amplitude * Math.sin((2 * Math.PI * 440 * i) / rate),
    )

  it('give the same pyramid however the samples come', () => {
    const samples = sine(2, 44_100)
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 30 }), (sizes) => {
        const whole = collectPeaks(44_100)
        whole.push(samples)
        const pieces = collectPeaks(44_100)
        let at = 0
        for (let i = 0; at < samples.length; i++) {
          const size = sizes[i % sizes.length] ?? 1
          pieces.push(samples.subarray(at, at + size))
          at += size
        }
        expect(pieces.finish()).toEqual(whole.finish())
      }),
      { numRuns: 20 },
    )
  })
  it('have as many bins as the time needs, on every level, even at odd rates', () => {
    for (const rate of [8000, 11_025, 44_100, 48_000]) {
      const collector = collectPeaks(rate)
      collector.push(sine(10, rate))
      const levels = collector.finish()
      expect(levels).toHaveLength(LEVELS)
      levels.forEach((l, i) => expect(l.data.length / 2).toBe(Math.ceil((10 * FINEST) / FACTOR ** i)))
    }
  })
  it('never lose the loudest sample on the way up', () => {
    const samples = new Float32Array(48_000)
    samples[31_234] = -0.9
    const collector = collectPeaks(48_000)
    collector.push(samples)
    for (const level of collector.finish()) expect(peakBetween(level, 0, 1).low).toBeCloseTo(-0.9, 2)
  })
  it('are taken from the coarsest level that still has a bin for every pixel', () => {
    const collector = collectPeaks(8000)
    collector.push(sine(1, 8000))
    const levels = collector.finish()
    expect(levelFor(levels, 500)?.binsPerSecond).toBe(FINEST)
    expect(levelFor(levels, 30)?.binsPerSecond).toBe(50)
    expect(levelFor(levels, 0.1)?.binsPerSecond).toBe(FINEST / FACTOR ** (LEVELS - 1))
  })
  it('of nothing are nothing', () => {
    expect(collectPeaks(48_000).finish()[0]?.data).toHaveLength(0)
  })
})

describe('levels', () => {
  it('measure a full sine at 0 dBFS peak and −3 dB RMS', () => {
    const { peak, rms } = measure(
      Float32Array.from({ length: 48_000 }, (_, i) => Math.sin((2 * Math.PI * 1000 * i) / 48_000)),
    )
    expect(decibels(peak)).toBeCloseTo(0, 3)
    expect(decibels(rms)).toBeCloseTo(-3.01, 2)
  })
  it.each([
    [0, 'clipping'],
    [-3, 'hot'],
    [-6, 'hot'],
    [-12, 'good'],
    [-30, 'quiet'],
    [-80, 'silent'],
    [-Infinity, 'silent'],
  ])('%d dBFS is %s', (db, zone) => {
    expect(zoneOf(db).zone).toBe(zone)
  })
  it('fill the scale from its floor to the top', () => {
    expect([meterShare(-Infinity), meterShare(-60), meterShare(-30), meterShare(0), meterShare(3)]).toEqual([
      0, 0, 0.5, 1, 1,
    ])
  })
})

describe('fades at seams', () => {
  it('are silent at the seam, whole after it, and leave ends that are no seams alone', () => {
    expect(seamGain(0, 1, true, true)).toBe(0)
    expect(seamGain(SEAM_FADE, 1, true, true)).toBe(1)
    expect(seamGain(1, 1, true, true)).toBeCloseTo(0, 12)
    expect(seamGain(0, 1, false, true)).toBe(1)
    expect(seamGain(1, 1, true, false)).toBe(1)
  })
  it('never amplify, however short the stretch', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 0.02, noNaN: true }),
        (share, length) => {
          const gain = seamGain(share * length, length, true, true)
          expect(gain).toBeGreaterThanOrEqual(0)
          expect(gain).toBeLessThanOrEqual(1)
        },
      ),
    )
  })
})

describe('WAVE headers', () => {
  const header = (fmt: number, channels: number, rate: number, bits: number, before: number[] = []) => {
    const bytes = new Uint8Array(64 + before.length)
    const view = new DataView(bytes.buffer)
    const tag = (at: number, text: string) => [...text].forEach((c, i) => view.setUint8(at + i, c.charCodeAt(0)))
    tag(0, 'RIFF')
    tag(8, 'WAVE')
    bytes.set(before, 12)
    const at = 12 + before.length
    tag(at, 'fmt ')
    view.setUint32(at + 4, 16, true)
    view.setUint16(at + 8, fmt, true)
    view.setUint16(at + 10, channels, true)
    view.setUint32(at + 12, rate, true)
    view.setUint16(at + 22, bits, true)
    tag(at + 24, 'data')
    view.setUint32(at + 28, 3200, true)
    return bytes
  }
  it('are read, also behind chunks nobody asked for', () => {
    expect(readWavHeader(header(1, 1, 16_000, 16))).toEqual({
      formatTag: 1,
      channels: 1,
      sampleRate: 16_000,
      bitsPerSample: 16,
      dataOffset: 44,
      dataSize: 3200,
    })
    const odd = [...'LIST'].map((c) => c.charCodeAt(0)).concat([3, 0, 0, 0, 1, 2, 3, 0])
    expect(readWavHeader(header(1, 2, 48_000, 24, odd)).dataOffset).toBe(56)
  })
  it.each([
    ['nothing', new Uint8Array(0)],
    ['text', new TextEncoder().encode('hello '.repeat(20))],
    ['a header cut short', header(1, 1, 16_000, 16).subarray(0, 40)],
  ])('refuse %s', (_, bytes) => {
    expect(() => readWavHeader(bytes)).toThrow(/WAVE/)
  })
})

describe('what is made louder', () => {
  it('stays inside, keeps its sign and order, and is untouched while it is soft', () => {
    const sample = fc.double({ min: -8, max: 8, noNaN: true })
    fc.assert(
      fc.property(sample, sample, (a, b) => {
        expect(Math.abs(softLimit(a))).toBeLessThanOrEqual(1)
        if (Math.abs(a) <= 0.9) expect(softLimit(a)).toBe(a)
        if (a < b) expect(softLimit(a)).toBeLessThanOrEqual(softLimit(b))
        expect(softLimit(-a)).toBe(-softLimit(a))
      }),
    )
  })
})
