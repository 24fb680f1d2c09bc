/**
 * Films and cuts that are not as one would make them for a test: rates that are no whole numbers, frames that come as
 * they will, films cut out of others.
 */
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { openEngine } from '../../scripts/engine.mjs'
import { atLength, lengthy } from '../at-length'
import { ffmpeg, film, inFolder, removeFilms } from './films'
import { complaints, cuts, duration, edit, frameDigests, frameNumbers, frameTimes, likeness } from './judge'

let engine: Awaited<ReturnType<typeof openEngine>>
beforeAll(async () => void (engine = await openEngine({ quiet: true })))
afterAll(async () => {
  await engine.close()
  removeFilms()
})
const render = (file: string, out: string, ...ranges: [number, number][]) =>
  engine.render({ file, edit: edit(...cuts(...ranges)), format: 'mp4' }, out, () => undefined)
const intervals = (file: string) =>
  frameTimes(file)
    .slice(1)
    .map((t, i, all) => t - (i === 0 ? frameTimes(file)[0]! : all[i - 1]!))
/** Cuts as people type them: anywhere. */
const typed: [number, number][] = [
  [0, 0.713],
  [2.331, 3.017],
  [5.009, 5.5],
  [7.77, 9.104],
  [11.3333, 12.001],
]
const otherRates = [['25', 25] as const, ['23.976', 24000 / 1001] as const]

describe.each([['29.97', 30000 / 1001] as const, ...(atLength ? otherRates : [])])(
  'a film of %s frames/s, cut anywhere',
  (name, rate) => {
    test('has its frames one interval apart, also at every seam, and no more and no fewer than its length has room for', async () => {
      const source = film(`rate-${name}.mp4`, {
        seconds: 14,
        rate,
        coding: ['-c:v', 'libx264', '-preset', 'veryfast', '-bf', '2', '-g', '48', '-c:a', 'aac'],
      })
      const out = inFolder(`rate-${name}-cut.mp4`)
      const made = await render(source, out, ...typed)
      const steps = intervals(out)
      for (const step of steps) expect(step).toBeCloseTo(1 / rate, 3)
      expect(Math.abs((steps.length + 1) / rate - made.duration)).toBeLessThan(0.51 / rate)
      expect(Math.abs(duration(out, 'v') - duration(out, 'a'))).toBeLessThan(1 / rate + 0.022)
      expect(complaints(out)).toBe('')
      // What is shown is what the edit says, to half a frame: numbers run on within a stretch, and jump by what was taken
      // out.
      const numbers = frameNumbers(out)
      expect(numbers[0]).toBeCloseTo(0.713 * rate, -0.5)
      expect(numbers.filter((n, i) => i > 0 && n !== numbers[i - 1]! + 1)).toHaveLength(4)
    })
  },
)

test('a film whose frames come as they will keeps their times, and none stands shorter than its shortest', async () => {
  const whole = film('as-they-will-whole.mp4', {
    seconds: 14,
    rate: 25,
    coding: ['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'],
  })
  const source = inFolder('as-they-will.mp4')
  ffmpeg(
    '-i',
    whole,
    '-vf',
    "select='gt(mod(n*7,11),4)'",
    '-fps_mode',
    'vfr',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-g',
    '30',
    '-c:a',
    'copy',
    source,
  )
  const out = inFolder('as-they-will-cut.mp4')
  await render(source, out, ...typed)
  expect(Math.min(...intervals(out))).toBeGreaterThan(0.0395)
  expect(complaints(out)).toBe('')
})

test('a film that says how its colours are meant is cut as one that does not, and says so still', async () => {
  const declared = [
    '-color_range',
    'pc',
    '-colorspace',
    'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'iec61966-2-1',
  ]
  const source = film('coloured.mp4', {
    seconds: 8,
    rate: 25,
    coding: ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '50', '-pix_fmt', 'yuvj420p', ...declared, '-c:a', 'aac'],
  })
  const out = inFolder('coloured-cut.mp4')
  await render(source, out, [1.3, 2.5], [4.1, 5.9])
  expect(complaints(out)).toBe('')
  const says = execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'frame=color_space', '-of', 'csv=p=0', out])
  expect([
    ...new Set(
      says
        .toString()
        .trim()
        .split(/[\n,]+/),
    ),
  ]).toEqual(['bt709'])
})

describe('a cut H.264 film', () => {
  const out = inFolder('described-cut.mp4')
  test('has one description, with the sets of both encoders in it and none in its packets', async () => {
    const source = film('described.mp4', {
      seconds: 14,
      rate: 25,
      coding: ['-c:v', 'libx264', '-preset', 'veryfast', '-bf', '3', '-g', '60', '-c:a', 'aac'],
    })
    await render(source, out, ...typed)
    const text = (...args: string[]) =>
      execFileSync('ffprobe', ['-v', 'error', '-select_streams', 'v', ...args, '-of', 'csv=p=0', out], {
        encoding: 'utf8',
      })
    expect(text('-show_entries', 'stream=codec_tag_string,profile,has_b_frames')).toMatch(/^High,avc1/)
    // Parameter sets that the film's own header holds, and that its packets hold.
    const units = execFileSync('ffmpeg', ['-v', 'error', '-i', out, '-map', '0:v', '-c', 'copy', '-f', 'data', '-'], {
      maxBuffer: 1 << 28,
    })
    const types = new Set<number>()
    for (let at = 0; at + 4 < units.length; at += 4 + units.readUInt32BE(at)) types.add((units[at + 4] ?? 0) & 31)
    expect([types.has(7), types.has(8), types.has(5)]).toEqual([false, false, true])
  })
  test('has an index that is no larger than it needs', () => {
    const bytes = readFileSync(out)
    const size = (type: string) => {
      const at = bytes.indexOf(type, 0, 'latin1')
      return at < 0 ? 0 : bytes.readUInt32BE(at - 4)
    }
    expect(bytes.indexOf('moov', 0, 'latin1')).toBeLessThan(bytes.indexOf('mdat', 0, 'latin1'))
    expect(size('free')).toBeLessThan(0.1 * size('moov'))
  })
  test('is the same frames for another program', () => {
    const frames = (command: string, args: string[]) =>
      execFileSync(command, args, { maxBuffer: 1 << 30, stdio: ['ignore', 'pipe', 'ignore'] })
    const one = frames('ffmpeg', [
      '-v',
      'error',
      '-i',
      out,
      '-map',
      '0:v',
      '-fps_mode',
      'passthrough',
      '-pix_fmt',
      'yuv420p',
      '-f',
      'rawvideo',
      '-',
    ])
    const raw = inFolder('described.yuv')
    frames('gst-launch-1.0', [
      '-q',
      'filesrc',
      `location=${out}`,
      '!',
      'qtdemux',
      '!',
      'avdec_h264',
      '!',
      'videoconvert',
      '!',
      'video/x-raw,format=I420',
      '!',
      'filesink',
      `location=${raw}`,
    ])
    const other = execFileSync('cat', [raw], { maxBuffer: 1 << 30 })
    expect(other.length).toBe(one.length)
    expect(Buffer.compare(one, other)).toBe(0)
  })
})

describe('a film that was cut out of a longer one', () => {
  const cutOut = (name: string, from: number, seconds: number, ...more: string[]) => {
    const whole = film(`${name}-whole.mp4`, {
      seconds: 60,
      rate: 25,
      coding: [
        '-c:v',
        'libx264',
        '-preset',
        'veryfast',
        '-bf',
        '3',
        '-x264-params',
        'open-gop=1:keyint=250:scenecut=0',
        '-c:a',
        'aac',
        ...more,
      ],
    })
    const out = inFolder(`${name}.mp4`)
    ffmpeg('-ss', String(from), '-i', whole, '-t', String(seconds), '-c', 'copy', out)
    return out
  }
  lengthy('and begins at a recovery point is shown from there on', async () => {
    const source = cutOut('entry', 13.3, 12)
    const found = (await engine.probe(source)) as { remarks: string[] }
    expect(found.remarks).toEqual([])
    const out = inFolder('entry-cut.mp4')
    const made = await render(source, out, [2, 3])
    expect([made.note, complaints(out)]).toEqual(['', ''])
    const times = frameTimes(out)
    const numbers = frameNumbers(out)
    for (const t of [0, 1, 2.5, 6])
      expect(
        Math.abs(numbers[times.findLastIndex((x) => x <= t + 0.001)]! - (t + (t > 2 ? 1 : 0) + 13.3) * 25),
        `${t} s`,
      ).toBeLessThan(1.1)
  })
  lengthy('and begins between two of them shows what can be shown, and says what cannot', async () => {
    const begins = cutOut('recovery', 13.3, 30)
    const source = inFolder('between.mp4')
    ffmpeg('-i', begins, '-c', 'copy', '-bsf:v', 'noise=drop=lt(n\\,8)', source)
    const found = (await engine.probe(source)) as { remarks: string[] }
    expect(found.remarks.join(' ')).toMatch(/The first 6\.\d s of the picture cannot be shown/)
    const out = inFolder('recovery-cut.mp4')
    const made = await render(source, out, [8, 9], [20, 22.5])
    expect(made.note).toMatch(/cannot be shown/)
    expect(complaints(out)).toBe('')
    expect(Math.abs(duration(out, 'v') - duration(out, 'a'))).toBeLessThan(0.07)
    const times = frameTimes(out)
    const at = (t: number) => times.findLastIndex((x) => x <= t + 0.001)
    const numbers = frameNumbers(out)
    // From where it can be shown, every frame is the one of its time in the film it was cut from.
    const sourceTimes = frameTimes(source).filter((t) => t >= -0.001)
    for (const t of [7.2, 7.9, 8.6, 12, 18.9, 19.5, 24]) {
      const inSource = t + (t > 8 ? 1 : 0) + (t > 19 ? 2.5 : 0)
      expect(Math.abs(numbers[at(t)]! - (inSource + 13.3 + (sourceTimes[0] ?? 0)) * 25), `${t} s`).toBeLessThan(1.1)
    }
    expect(likeness(out, at(12), source, Math.round((13 + 3.32) * 25))).toBeGreaterThan(0.5)
  })
})

describe('a film of open groups with a single IDR picture', () => {
  type Case = [name: string, make: () => string]
  /** Groups of 2 s. */
  const open = (name: string, params: string, ...more: string[]) =>
    film(`open-${name}.mp4`, {
      seconds: 14,
      rate: 25,
      coding: ['-c:v', 'libx264', ...more, '-x264-params', `open-gop=1:scenecut=0:keyint=50:${params}`, '-c:a', 'aac'],
    })
  /** Only the first frame is marked as one to begin at. */
  const unmarked = (source: string, name: string) => {
    const bytes = readFileSync(source)
    bytes.writeUInt32BE(1, bytes.indexOf('stss') + 8)
    const out = inFolder(name)
    writeFileSync(out, bytes)
    return out
  }
  const usual: Case = ['as most are coded', () => open('usual', 'bframes=3')]
  const others: Case[] = [
    [
      'with references that are taken leave of',
      () => open('pyramid', 'bframes=4:b-pyramid=normal:ref=6', '-preset', 'fast'),
    ],
    ['that its container does not mark', () => unmarked(open('usual', 'bframes=3'), 'open-unmarked.mp4')],
  ]
  const plain: Case = [
    'in slices, without arithmetic coding',
    () => open('plain', 'bframes=2:cabac=0:slices=3:weightp=2'),
  ]
  test.each([usual, ...(atLength ? [plain, ...others] : [])])(
    '%s is copied from the next intra picture on, and every frame is the one it was',
    async (_, make) => {
      const source = make()
      const out = source.replace('.mp4', '-cut.mp4')
      const ranges: [number, number][] = [
        [0, 1.32],
        [4.4, 6],
        [9.12, 11.48],
      ]
      await render(source, out, ...ranges)
      const kept = Array.from({ length: 350 }, (_, n) => n).filter(
        (n) => !ranges.some(([a, b]) => n >= a * 25 - 0.01 && n < b * 25 - 0.01),
      )
      expect(complaints(out)).toBe('')
      expect(frameNumbers(out)).toEqual(kept)
      // What is copied is the same to the bit; at each cut no more is encoded than up to the next group, and at its other side
      // the few frames whose order of decoding crosses it.
      const [digests, theirs] = [frameDigests(out), frameDigests(source)]
      const differ = kept.filter((n, i) => digests[i] !== theirs[n])
      expect(differ.length).toBeGreaterThan(10)
      const allowed = ranges.reduce((sum, [, to]) => sum + (Math.ceil(to / 2 - 1e-6) * 2 - to) * 25 + 4, 0)
      expect(differ.length).toBeLessThanOrEqual(allowed)
    },
  )

  /** Any of an encoder's settings that change how pictures refer to one another. */
  const params = fc.record({
    bframes: fc.integer({ min: 0, max: 8 }),
    ref: fc.integer({ min: 1, max: 9 }),
    'b-pyramid': fc.constantFrom('none', 'strict', 'normal'),
    weightp: fc.integer({ min: 0, max: 2 }),
    cabac: fc.constantFrom(0, 1),
    slices: fc.integer({ min: 1, max: 4 }),
    keyint: fc.integer({ min: 20, max: 90 }),
    'intra-refresh': fc.constantFrom(0, 0, 0, 1),
    'b-adapt': fc.integer({ min: 0, max: 2 }),
    direct: fc.constantFrom('spatial', 'temporal', 'auto'),
  })
  const ends = fc.uniqueArray(fc.integer({ min: 1, max: 340 }), { minLength: 2, maxLength: 6 })
  lengthy(
    'however it is coded keeps every frame, and is decoded without a complaint',
    async () => {
      let n = 0
      await fc.assert(
        fc.asyncProperty(params, ends, async (how, at) => {
          const source = open(
            `any-${n++}`,
            Object.entries(how)
              .map(([name, value]) => `${name}=${value}`)
              .join(':'),
          )
          const sorted = at.sort((a, b) => a - b)
          const ranges = sorted.flatMap((from, i): [number, number][] =>
            i % 2 === 0 && sorted[i + 1] ? [[from / 25, sorted[i + 1]! / 25]] : [],
          )
          const out = source.replace('.mp4', '-cut.mp4')
          const made = await render(source, out, ...ranges)
          const kept = Array.from({ length: 350 }, (_, n) => n).filter(
            (n) => !ranges.some(([a, b]) => n >= a * 25 - 0.01 && n < b * 25 - 0.01),
          )
          expect(complaints(out)).toBe('')
          expect(frameNumbers(out)).toEqual(kept)
          // Whatever was not encoded anew is the same to the bit.
          const [digests, theirs] = [frameDigests(out), frameDigests(source)]
          const differ = kept.filter((n, i) => digests[i] !== theirs[n])
          expect(differ.length).toBeLessThanOrEqual(Math.round(made.encoded * 25) + 1)
        }),
        { numRuns: 12 },
      )
    },
    600_000,
  )
})
