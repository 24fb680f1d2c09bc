import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { InputPlan, InputSource, Setup } from '../schema/setup'
import { Setup as SetupSchema } from '../schema/setup'
import { parseAs } from '../schema/validate'
import {
  adviceOn,
  areaBetween,
  freeFor,
  hoursThatFit,
  matchDevices,
  minutesThatFit,
  missingFrames,
  newInput,
  perHour,
  RESERVE,
  show,
  sumPerHour,
  withEdge,
  type KnownDevice,
} from './inputs'
import { judge, type HeardSound, type SeenPicture } from './rehearsal'
import { soundWatch, wrongMicrophone, type SoundWarning } from './watch'

const sources: InputSource[] = [
  'hall-screen',
  'hall-camera',
  'hall-lectern',
  'hall-ceiling',
  'display',
  'camera',
  'microphone',
  'computer',
]
const plan = (source: InputSource, change: Partial<InputPlan> = {}): InputPlan => ({
  ...newInput(`id-${source}`, source, []),
  ...change,
})

describe('an input', () => {
  it('gets settings that suit what it shows', () => {
    expect(newInput('a', 'camera', []).picture).toMatchObject({ shows: 'face', width: 640, height: 480, frameRate: 24 })
    expect(newInput('a', 'display', []).picture).toMatchObject({
      shows: 'slides',
      width: 1920,
      height: 1080,
      frameRate: 15,
    })
    expect(newInput('a', 'microphone', []).picture).toBeNull()
    expect(show(plan('display'), 'video').picture?.frameRate).toBe(30)
  })
  it('keeps its area when it shows something else', () => {
    const area = { x: 0.1, y: 0.1, width: 0.5, height: 0.5 }
    const input = plan('display')
    expect(show({ ...input, picture: { ...input.picture!, area } }, 'video').picture?.area).toEqual(area)
  })
  it('is told apart from others of the same source', () => {
    const first = newInput('a', 'camera', [])
    expect([first.label, newInput('b', 'camera', [first]).label]).toEqual(['Camera', 'Camera 2'])
  })
  it.each(sources)('from %s makes a setup that is valid', (source) => {
    const setup: Setup = {
      format: 'thaw-setup',
      version: 1,
      id: 's',
      name: 'Hall B',
      inputs: [newInput('a', source, [])],
      countdown: 3,
    }
    expect(parseAs(SetupSchema, structuredClone(setup), 'setup')).toEqual(setup)
  })
})

describe('what a recording takes', () => {
  it('is the sum of what is on', () => {
    expect(perHour(8_000_000)).toBe(3_600_000_000)
    expect(
      sumPerHour([
        plan('camera', { bitrate: 800_000 }),
        plan('microphone', { bitrate: 80_000 }),
        plan('display', { on: false }),
      ]),
    ).toBe(880_000 * 450)
  })
  it('fits for as long as the rest of the storage allows, with room to settle', () => {
    expect(hoursThatFit(RESERVE + 3e9, [1e9, 0.5e9])).toBeCloseTo(0.75)
    expect(hoursThatFit(RESERVE - 1, [1e9])).toBe(0)
    expect(hoursThatFit(1e9, [])).toBe(Infinity)
    // What is really written, step by step: pieces of every feed; then, one feed after the other, a whole file beside
    // them by way of a scratch file; and only then are the pieces removed.
    const most = (hours: number, rates: readonly number[]) => {
      let used = 0
      let peak = 0
      const write = (bytes: number) => (peak = Math.max(peak, (used += bytes)))
      for (const rate of rates) write(hours * rate)
      for (const rate of rates) {
        write(hours * rate)
        write(hours * rate)
        used -= hours * rate
      }
      return peak
    }
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1000, max: 1e9 }), { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 1e9, max: 1e12 }),
        (rates, room) => {
          const hours = hoursThatFit(room + RESERVE, rates)
          expect(most(hours, rates)).toBeLessThanOrEqual(room * (1 + 1e-9))
          // And not much less than would fit, in whatever order the feeds come.
          expect(most(hours, rates)).toBeGreaterThan(0.8 * room)
        },
      ),
    )
  })
  it('is advised on', () => {
    expect(adviceOn([])).toEqual([])
    expect(adviceOn([plan('display')])).toEqual([expect.stringMatching(/silent/)])
    expect(adviceOn([plan('display'), plan('hall-screen'), plan('microphone')])).toEqual([
      expect.stringMatching(/Two screens/),
    ])
    expect(adviceOn([plan('display'), plan('hall-screen', { on: false }), plan('microphone')])).toEqual([])
  })
})

describe('a recording under way', () => {
  it('fits for as many minutes as its real rate allows, after what has to be settled', () => {
    // 10 MB in 60 s in one feed: 30 MB a minute are needed, 20 MB of them for what is there already.
    expect(minutesThatFit(320e6, [10e6], 60)).toBeCloseTo(10)
    expect(minutesThatFit(20e6, [10e6], 60)).toBe(0)
    expect(minutesThatFit(1e6, [10e6], 60)).toBe(0)
    expect(minutesThatFit(1e6, [], 60)).toBe(Infinity)
  })
  it('needs so much free for so many minutes, and then they just fit', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1000, max: 1e9 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 3, max: 7200 }),
        fc.integer({ min: 1, max: 60 }),
        (kept, seconds, minutes) => {
          expect(minutesThatFit(freeFor(minutes, kept, seconds), kept, seconds)).toBeCloseTo(minutes, 6)
        },
      ),
    )
    expect(freeFor(10, [], 0)).toBe(0)
  })
  it('misses frames that are due, once there are enough to say', () => {
    expect(missingFrames({ frames: 90, due: 100 })).toBeCloseTo(0.1)
    expect(missingFrames({ frames: 101, due: 100 })).toBe(0)
    expect(missingFrames({ frames: 0, due: 20 })).toBe(0)
  })
})

describe('a drawn area', () => {
  const share = fc.double({ min: 0, max: 1, noNaN: true })
  it('is the same from whichever corner it is dragged, and none when nothing was meant', () => {
    fc.assert(
      fc.property(share, share, share, share, (x, y, u, v) => {
        expect(areaBetween({ x, y }, { x: u, y: v })).toEqual(areaBetween({ x: u, y: v }, { x, y }))
      }),
    )
    expect(areaBetween({ x: 0.5, y: 0.5 }, { x: 0.52, y: 0.9 })).toBeNull()
  })
  it('stays within the picture and of some size, whatever is typed', () => {
    const typed = fc.double({ min: -2, max: 3, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('x' as const, 'y' as const, 'width' as const, 'height' as const), typed), {
          minLength: 1,
          maxLength: 8,
        }),
        (edits) => {
          const area = edits.reduce<ReturnType<typeof withEdge> | null>(
            (a, [key, value]) => withEdge(a, key, value),
            null,
          )
          if (!area) throw new Error('no area')
          for (const [from, size] of [
            [area.x, area.width],
            [area.y, area.height],
          ] as const) {
            expect(from).toBeGreaterThanOrEqual(0)
            expect(size).toBeGreaterThanOrEqual(0.05)
            expect(from + size).toBeLessThanOrEqual(1 + 1e-9)
          }
        },
      ),
    )
  })
})

describe('devices of a setup', () => {
  const mic = (deviceId: string, label: string): KnownDevice => ({ deviceId, kind: 'audioinput', label })
  const wanted = plan('microphone', { deviceId: 'old', deviceName: 'Clip-on' })
  it('are found by id, even when two have one name', () => {
    const { inputs, missing } = matchDevices({ inputs: [wanted] }, [mic('x', 'Clip-on'), mic('old', 'Clip-on')])
    expect([inputs[0]?.deviceId, missing]).toEqual(['old', []])
  })
  it('are found by name when their ids have changed, each for one input', () => {
    const second = { ...wanted, id: 'b', label: 'Second' }
    const { inputs, missing } = matchDevices({ inputs: [wanted, second] }, [
      mic('new', 'Clip-on'),
      mic('other', 'Built in'),
    ])
    expect(inputs.map((i) => [i.deviceId, i.on])).toEqual([
      ['new', true],
      ['old', false],
    ])
    expect(missing).toEqual([expect.stringMatching(/^Second: “Clip-on” is not plugged in/)])
  })
  it('are never a camera for a microphone, and nothing is missed that has no device', () => {
    const { inputs, missing } = matchDevices({ inputs: [wanted, plan('hall-screen'), plan('camera')] }, [
      { deviceId: 'old', kind: 'videoinput', label: 'Clip-on' },
    ])
    expect(missing).toHaveLength(1)
    expect(inputs.map((i) => i.on)).toEqual([false, true, true])
  })
})

describe('a rehearsal', () => {
  const amplitude = (dBFS: number) => 10 ** (dBFS / 20)
  const voice = (peak: number, floor: number, clipped = 0): HeardSound => ({
    label: 'Microphone',
    noiseFloor: floor,
    clipped,
    tops: Float32Array.from({ length: 400 }, (_, i) => amplitude(i % 5 === 0 ? floor + 6 : peak - (i % 7))),
  })
  const face: SeenPicture = { label: 'Camera', kind: 'camera', frames: 240, due: 240, movement: 3, brightest: 180 }
  const grades = (sounds: HeardSound[], pictures: SeenPicture[] = []) => judge(sounds, pictures).map((v) => v.grade)

  it('with a good voice in a quiet room and a live picture is good throughout, without a remedy', () => {
    const verdicts = judge([voice(-10, -62)], [face])
    expect(verdicts.map((v) => [v.about, v.grade, v.remedy])).toEqual([
      ['Microphone', 'good', ''],
      ['Microphone', 'good', ''],
      ['Camera', 'good', ''],
    ])
  })
  it.each([
    ['silence', voice(-80, -95), /Nothing is to be heard/],
    ['clipping', voice(-0.1, -60, 0.4), /0\.4 s of it/],
    ['a far voice', voice(-45, -90), /far too quiet/],
    ['noise', voice(-12, -36), /only 12 dB below/],
  ])('with %s is bad, and says why and what to do', (_, sound, says) => {
    const bad = judge([sound], []).filter((v) => v.grade === 'bad')
    expect(bad).toHaveLength(1)
    expect(bad[0]?.says).toMatch(says)
    expect(bad[0]?.remedy).not.toBe('')
  })
  it('knows what lies between', () => {
    expect(grades([voice(-2, -60)])[0]).toBe('fair')
    expect(grades([voice(-30, -80)])[0]).toBe('fair')
    expect(grades([voice(-12, -45)])).toEqual(['good', 'fair'])
  })
  it('without any sound is bad', () => expect(judge([], [face])[0]).toMatchObject({ about: 'Sound', grade: 'bad' }))
  it.each<[string, Partial<SeenPicture>, RegExp, string]>([
    ['no frame', { frames: 0 }, /No picture/, 'bad'],
    ['black', { brightest: 4 }, /black/, 'bad'],
    ['frozen', { movement: 0 }, /frozen/, 'bad'],
    ['a fifth of the frames gone', { frames: 192 }, /20 % of the frames/, 'bad'],
    ['some frames gone', { frames: 228 }, /5 % of the frames/, 'fair'],
  ])('tells a picture with %s', (_, change, says, grade) => {
    const verdict = judge([voice(-10, -62)], [{ ...face, ...change }]).at(-1)
    expect(verdict?.says).toMatch(says)
    expect(verdict?.grade).toBe(grade)
  })
  it('lets a screen stand still', () =>
    expect(judge([voice(-10, -62)], [{ ...face, kind: 'screen', movement: 0 }]).at(-1)?.grade).toBe('good'))
})

describe('watching a level', () => {
  /** Ten looks a second for some seconds each: peak and rms in dBFS, the rms as a function of the look. */
  function listen(...parts: [seconds: number, peak: number, rms: (i: number) => number][]): SoundWarning[] {
    const watch = soundWatch()
    const out: SoundWarning[] = []
    let n = 0
    for (const [seconds, peak, rms] of parts)
      for (let i = 0; i < seconds * 10; i++, n++)
        out.push(watch(n / 10, { peak: 10 ** (peak / 20), rms: 10 ** (rms(i) / 20) }))
    return out
  }
  const speech = (i: number) => (i % 6 < 4 ? -22 : -58)

  it('is quiet about speech with its pauses', () => expect(new Set(listen([40, -10, speech]))).toEqual(new Set([null])))
  it('says silence after five seconds and no sooner, and stops at the first word', () => {
    const said = listen([10, -10, speech], [8, -80, () => -90], [1, -10, speech])
    expect(said.indexOf('silent')).toBeGreaterThanOrEqual(148)
    expect(said.indexOf('silent')).toBeLessThanOrEqual(151)
    expect(said.slice(181)).not.toContain('silent')
  })
  it('says clipping at once, and for three seconds', () => {
    const said = listen([2, -10, speech], [0.1, -0.1, speech], [6, -10, speech])
    expect(said[20]).toBe('clipping')
    expect(said.lastIndexOf('clipping')).toBeGreaterThanOrEqual(49)
    expect(said.lastIndexOf('clipping')).toBeLessThanOrEqual(51)
  })
  it('says steady noise, but not of a voice above it', () => {
    expect(listen([12, -25, (i) => -36 + (i % 3) * 0.5]).at(-1)).toBe('noise')
    expect(listen([12, -10, (i) => (i % 6 < 4 ? -18 : -38)])).not.toContain('noise')
  })
  it('knows when another microphone is meant', () => {
    expect(wrongMicrophone({ label: 'Ceiling', level: -62 }, [{ label: 'Lectern', level: -24 }])).toMatch(
      /^Lectern hears the speaker/,
    )
    expect(wrongMicrophone({ label: 'Ceiling', level: -30 }, [{ label: 'Lectern', level: -24 }])).toBeNull()
    expect(wrongMicrophone({ label: 'Ceiling', level: -62 }, [])).toBeNull()
  })
})
