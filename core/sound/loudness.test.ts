import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decibels, loudest } from './level'
import { joinLoudness, loudnessMeter, type Loudness } from './loudness'
import { noiseFloor, proposeCuts, silenceDetector } from './silence'
import { limiter, truePeakMeter } from './true-peak'

const RATE = 48_000

/** A stereo sine: stretches of seconds at a level in dBFS (peak of the sine). */
function measureTone(parts: readonly [seconds: number, level: number][], channels = 2, frequency = 1000): Loudness {
  const meter = loudnessMeter(RATE, channels)
  let phase = 0
  for (const [seconds, level] of parts) {
    const amplitude = 10 ** (level / 20)
    for (let done = 0, total = Math.round(seconds * RATE); done < total; done += 4800) {
      const plane = new Float32Array(Math.min(4800, total - done))
      for (let i = 0; i < plane.length; i++)
        plane[i] = amplitude * Math.sin((phase += (2 * Math.PI * frequency) / RATE))
      meter.push(Array.from({ length: channels }, () => plane))
    }
  }
  return meter.finish()
}

describe('integrated loudness, by the cases of EBU Tech 3341', () => {
  it.each([
    ['1', [[20, -23]], -23],
    ['2', [[20, -33]], -33],
    [
      '3',
      [
        [10, -36],
        [60, -23],
        [10, -36],
      ],
      -23,
    ],
    [
      '4',
      [
        [10, -72],
        [10, -36],
        [60, -23],
        [10, -36],
        [10, -72],
      ],
      -23,
    ],
    [
      '5',
      [
        [20, -26],
        [20.1, -20],
        [20, -26],
      ],
      -23,
    ],
  ] as [string, [number, number][], number][])('case %s', (_, parts, lufs) => {
    const found = measureTone(parts)
    expect(found.integrated).toBeGreaterThan(lufs - 0.1)
    expect(found.integrated).toBeLessThan(lufs + 0.1)
  })
  it('case 6: five channels, the surrounds weighing more, the low-frequency one nothing', () => {
    const meter = loudnessMeter(RATE, 6)
    const full = new Float32Array(10 * RATE)
    for (let i = 0; i < full.length; i++) full[i] = Math.sin((2 * Math.PI * 1000 * i) / RATE)
    const tone = (level: number) => full.map((s) => s * 10 ** (level / 20))
    meter.push([tone(-28), tone(-28), tone(-24), tone(0), tone(-30), tone(-30)])
    expect(meter.finish().integrated).toBeCloseTo(-23, 1)
  })
  it('says that silence has none', () => {
    expect(measureTone([[2, -200]]).integrated).toBe(-Infinity)
    expect(loudnessMeter(RATE, 1).finish().integrated).toBe(-Infinity)
  })
  it('is the same at other sample rates', () => {
    const meter = loudnessMeter(44_100, 1)
    meter.push([Float32Array.from({ length: 441_000 }, (_, i) => 0.1 * Math.sin((2 * Math.PI * 997 * i) / 44_100))])
    expect(meter.finish().integrated).toBeCloseTo(-23, 1)
  })
})

describe('loudness range, by the cases of EBU Tech 3342', () => {
  it.each([
    [
      '1',
      [
        [20, -20],
        [20, -30],
      ],
      10,
    ],
    [
      '2',
      [
        [20, -20],
        [20, -15],
      ],
      5,
    ],
    [
      '3',
      [
        [20, -40],
        [20, -20],
      ],
      20,
    ],
    [
      '4',
      [
        [20, -50],
        [20, -35],
        [20, -20],
        [20, -35],
        [20, -50],
      ],
      15,
    ],
  ] as [string, [number, number][], number][])('case %s', (_, parts, lu) => {
    expect(Math.abs(measureTone(parts).range - lu)).toBeLessThan(1)
  })
})

describe('true peak, by the cases of EBU Tech 3341', () => {
  const sine = (perSample: number, degrees: number, amplitude: number) =>
    Float32Array.from(
      { length: 4800 },
      (_, i) => amplitude * Math.sin(2 * Math.PI * i * perSample + (degrees * Math.PI) / 180),
    )
  it.each([
    ['15', 1 / 4, 0, 0.5, -6],
    ['16', 1 / 4, 45, 0.5, -6],
    ['17', 1 / 6, 60, 0.5, -6],
    ['18', 1 / 8, 67.5, 0.5, -6],
    ['19', 1 / 4, 45, 1.41, 3],
  ])('case %s', (_, perSample, degrees, amplitude, dbtp) => {
    const meter = truePeakMeter()
    meter.push(sine(perSample, degrees, amplitude))
    // A tone that starts at full level rings a little: the published tolerance is +0.2 −0.4 dB on the steady part.
    const steady = truePeakMeter()
    steady.push(sine(perSample, degrees, amplitude).map((s, i) => s * Math.min(1, i / 1000, (4800 - i) / 1000)))
    expect(decibels(steady.peak)).toBeGreaterThan(dbtp - 0.4)
    expect(decibels(steady.peak)).toBeLessThan(dbtp + 0.2)
    expect(meter.peak).toBeGreaterThanOrEqual(steady.peak - 0.01)
  })
  it('reads tones near the top of the band within 0.1 dB', () => {
    for (const perSample of [0.3, 0.37, 0.41]) {
      const meter = truePeakMeter()
      meter.push(sine(perSample, 0, 0.5).map((s, i) => s * Math.min(1, i / 1000, (4800 - i) / 1000)))
      expect(Math.abs(decibels(meter.peak) - decibels(0.5)), `${perSample} of the sampling rate`).toBeLessThan(0.1)
    }
  })
  it('is the same whichever end of a sound is its first', () => {
    for (const perSample of [11_025 / 44_100, 11_000 / 48_000, 0.31]) {
      const [there, back] = [truePeakMeter(), truePeakMeter()]
      const tone = sine(perSample, 45, 0.7)
      there.push(tone)
      back.push(tone.toReversed())
      expect(Math.abs(decibels(there.peak) - decibels(back.peak))).toBeLessThan(0.05)
      // It begins and ends at full level, and rings there.
      expect(there.peak).toBeGreaterThan(0.7)
    }
  })
  it('does not depend on how the samples are cut up', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 30, maxLength: 400 }),
        fc.integer({ min: 1, max: 60 }),
        (list, size) => {
          const whole = truePeakMeter()
          whole.push(Float32Array.from(list))
          const parts = truePeakMeter()
          for (let i = 0; i < list.length; i += size) parts.push(Float32Array.from(list.slice(i, i + size)))
          expect(parts.peak).toBeCloseTo(whole.peak, 6)
        },
      ),
    )
  })
})

describe('the loudness of several sounds', () => {
  it('is the mean of their powers by their lengths', () => {
    expect(joinLoudness([{ loudness: -20, seconds: 10 }])).toBeCloseTo(-20, 9)
    expect(
      joinLoudness([
        { loudness: -20, seconds: 10 },
        { loudness: -30, seconds: 10 },
      ]),
    ).toBeCloseTo(-22.6, 1)
    expect(
      joinLoudness([
        { loudness: -20, seconds: 10 },
        { loudness: -Infinity, seconds: 90 },
      ]),
    ).toBeCloseTo(-20, 9)
    expect(joinLoudness([])).toBe(-Infinity)
  })
})

describe('the limiter', () => {
  const run = (input: Float32Array, ceiling: number, block: number) => {
    const limit = limiter(1, RATE, ceiling)
    const out: number[] = []
    for (let i = 0; i < input.length + limit.delay; i += block) {
      const part = new Float32Array(block)
      part.set(input.subarray(Math.min(i, input.length), Math.min(i + block, input.length)))
      out.push(...(limit.process([part])[0] as Float32Array))
    }
    return Float32Array.from(out.slice(limit.delay, limit.delay + input.length))
  }
  it('keeps the true peak below its ceiling, whatever comes', () => {
    let seed = 1
    const loud = Float32Array.from({ length: 24_000 }, (_, i) => {
      seed = (seed * 16_807) % 2_147_483_647
      return (i % 7000 < 600 ? 2.5 : 0.4) * ((seed / 2_147_483_647) * 2 - 1)
    })
    const meter = truePeakMeter()
    meter.push(run(loud, 0.891, 480))
    expect(decibels(meter.peak)).toBeLessThan(-1 + 0.1)
  })
  it('leaves what is below it alone, and in its place', () => {
    const quiet = Float32Array.from({ length: 5000 }, (_, i) => 0.5 * Math.sin(i / 9))
    const out = run(quiet, 0.9, 700)
    expect(Math.max(...out.map((s, i) => Math.abs(s - (quiet[i] ?? 0))))).toBeLessThan(1e-6)
  })
})

describe('silences', () => {
  const tone = (seconds: number, amplitude: number) =>
    Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => amplitude * Math.sin(i / 3))
  it('are found to the sample, however the sound is cut up', () => {
    const sound = Float32Array.from([
      ...tone(1, 0.5),
      ...new Float32Array(RATE),
      ...tone(1, 0.5),
      ...tone(0.75, 0.0005),
    ])
    for (const size of [480, 4801, 99_999]) {
      const detector = silenceDetector(RATE, -45, 0.5)
      for (let i = 0; i < sound.length; i += size) detector.push(loudest([sound.subarray(i, i + size)]))
      const found = detector.finish()
      expect(found).toHaveLength(2)
      expect(found[0]!.from).toBeCloseTo(1, 3)
      expect(found[0]!.to).toBeCloseTo(2, 3)
      expect(found[1]!.to).toBe(sound.length / RATE)
    }
  })
  it('are silent in every channel', () => {
    const detector = silenceDetector(RATE, -45, 0.1)
    detector.push(loudest([new Float32Array(RATE), tone(1, 0.5).map((s) => s + 0.01)]))
    expect(detector.finish()).toEqual([])
  })
  it('give the noise floor of the room, not of a muted microphone', () => {
    expect(noiseFloor(Float32Array.from({ length: 100 }, (_, i) => (i < 20 ? 0 : i < 40 ? 0.001 : 0.1)))).toBeCloseTo(
      -60,
      1,
    )
    expect(noiseFloor(new Float32Array(10))).toBe(-Infinity)
  })
})

describe('proposed cuts', () => {
  const range = (from: number, to: number) => ({ from, to }) as never
  it('trim both ends and leave a lead-in and a tail', () => {
    const cuts = proposeCuts([range(0, 8), range(50, 51), range(94, 100)], [], 100)
    expect(cuts.map((c) => [c.reason, c.from, c.to])).toEqual([
      ['start', 0, 7.6],
      ['end', 94.6, 100],
    ])
  })
  it('shorten long pauses only', () => {
    expect(proposeCuts([range(20, 22), range(40, 52)], [], 100).map((c) => [c.reason, c.from, c.to, c.says])).toEqual([
      ['pause', 40.6, 51.6, 'A pause of 12 s.'],
    ])
  })
  it('take a short burst before a long silence for a false start', () => {
    const [first, ...rest] = proposeCuts([range(0, 4), range(6.5, 12)], [], 100)
    expect([first?.reason, first?.from, first?.to]).toEqual(['false-start', 0, 11.6])
    expect(rest).toEqual([])
  })
  it('propose nothing for a recording that is full of speech', () => {
    expect(proposeCuts([range(10, 10.8), range(30, 31.2)], [], 100)).toEqual([])
  })
})
