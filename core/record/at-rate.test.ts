import { describe, expect, it } from 'vitest'
import { atRate } from './at-rate'
import type { StereoBlock } from './live-sound'

const TONE = 440
const tone = (t: number) => Math.sin(2 * Math.PI * TONE * t)

/** A device's blocks of `length` frames, at its rate; the right side is turned round. */
function* device(rate: number, seconds: number, length: number, from = 0): Generator<StereoBlock> {
  for (let i = 0; i < seconds * rate; i += length) {
    const planes = new Float32Array(2 * length)
    for (let k = 0; k < length; k++) {
      planes[k] = tone(from + (i + k) / rate)
      planes[length + k] = -(planes[k] ?? 0)
    }
    yield { at: from + i / rate, planes }
  }
}

describe('live sound at one rate', () => {
  for (const rate of [8000, 16_000, 22_050, 44_100, 96_000])
    it(`is that of a device at ${rate} Hz, sample for sample in time`, () => {
      const convert = atRate(48_000)
      const blocks = [...device(rate, 1, Math.round(rate / 100))].flatMap((block) => convert(block, rate))
      let [end, worst] = [0, 0]
      for (const { at, planes } of blocks) {
        expect(at).toBeCloseTo(end, 9)
        const frames = planes.length / 2
        for (let k = 0; k < frames; k++) {
          // The first few have nothing before them.
          if (at + k / 48_000 < 0.02) continue
          worst = Math.max(worst, Math.abs((planes[k] ?? 0) - tone(at + k / 48_000)))
          worst = Math.max(worst, Math.abs((planes[frames + k] ?? 0) + (planes[k] ?? 0)))
        }
        end = at + frames / 48_000
      }
      expect(worst).toBeLessThan(0.002)
      expect(end).toBeGreaterThan(0.99)
      expect(end).toBeLessThanOrEqual(1.005)
    })
  it('passes on as it is what has it', () => {
    const [block] = device(48_000, 0.01, 480)
    expect(atRate(48_000)(block!, 48_000)).toEqual([block])
  })
  it('begins anew where the device changes its rate, or gave nothing for a while', () => {
    const convert = atRate(48_000)
    const first = [...device(44_100, 1, 441)].flatMap((block) => convert(block, 44_100))
    const second = [...device(16_000, 1, 160, 1)].flatMap((block) => convert(block, 16_000))
    const third = [...device(16_000, 1, 160, 7)].flatMap((block) => convert(block, 16_000))
    expect([first[0]?.at, second[0]?.at, third[0]?.at]).toEqual([0, 1, 7])
    const last = third.at(-1)
    expect((last?.at ?? 0) + (last?.planes.length ?? 0) / 2 / 48_000).toBeCloseTo(8, 2)
  })
})
