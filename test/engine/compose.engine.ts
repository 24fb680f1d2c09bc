/**
 * What an edit puts in and lays over: each feature rendered from a film that tells its own frames, judged by ffmpeg.
 */
import { execFileSync } from 'node:child_process'
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { readSrt } from '#core/captions/srt'
import { readVtt, writeTimestamp } from '#core/captions/vtt'
import type { EditCommand } from '#core/schema/edit-command'
import { recorded as at } from '#core/time/units'
import { openEngine } from '../../scripts/engine.mjs'
import { atLength, lengthy } from '../at-length'
import { codings, ffmpeg, film, inFolder, removeFilms } from './films'
import { complaints, cuts, duration, edit, frameNumbers, lag, likeness, samples } from './judge'

let engine: Awaited<ReturnType<typeof openEngine>>
let source = ''
let webm = ''
let camera = ''
const blue = inFolder('blue.png')
beforeAll(async () => {
  engine = await openEngine({ quiet: true })
  source = film('source.mp4', { seconds: 12, coding: [...codings['H.264 and AAC']!.args, '-g', '60'] })
  webm = film('source.webm', { seconds: 6, width: 320, height: 180, coding: codings['VP8 and Opus']!.args })
  camera = inFolder('camera.mp4')
  ffmpeg('-f', 'lavfi', '-i', 'color=#c02020:s=320x240:r=24:d=12', '-pix_fmt', 'yuv420p', camera)
  ffmpeg('-f', 'lavfi', '-i', 'color=#2040c0:s=400x300', '-frames:v', '1', blue)
})
afterAll(async () => {
  await engine.close()
  removeFilms()
})

const render = async (
  name: string,
  commands: EditCommand[],
  more: Partial<Parameters<typeof engine.render>[0]> = {},
) => {
  const out = inFolder(name)
  const made = await engine.render(
    { file: source, edit: edit(...commands), format: 'mp4', ...more },
    out,
    () => undefined,
  )
  if (!name.endsWith('hls')) expect(complaints(out)).toBe('')
  return { out, made }
}
const whole = { x: 0, y: 0, width: 1, height: 1 }

/** Mean colour (Y, Cb, Cr) of a box (px) of one frame. */
function colour(file: string, time: number, [x, y, width, height]: [number, number, number, number]): number[] {
  const raw = execFileSync('ffmpeg', [
    '-v',
    'error',
    '-ss',
    String(time),
    '-i',
    file,
    '-frames:v',
    '1',
    '-vf',
    `crop=${width}:${height}:${x}:${y},scale=1:1:flags=area,format=yuv444p`,
    '-f',
    'rawvideo',
    '-',
  ])
  return [...raw]
}
/** How much detail a box has: mean difference of neighbouring px. */
function detail(file: string, time: number, [x, y, width, height]: [number, number, number, number]): number {
  const raw = execFileSync('ffmpeg', [
    '-v',
    'error',
    '-ss',
    String(time),
    '-i',
    file,
    '-frames:v',
    '1',
    '-vf',
    `crop=${width}:${height}:${x}:${y},format=gray`,
    '-f',
    'rawvideo',
    '-',
  ])
  let sum = 0
  for (let i = 1; i < raw.length; i++) sum += Math.abs(raw[i]! - raw[i - 1]!)
  return sum / raw.length
}

/** The hardest edge in a box: the largest difference of neighbours in a row. */
function hardest(file: string, time: number, [x, y, width, height]: [number, number, number, number]): number {
  const raw = execFileSync('ffmpeg', [
    '-v',
    'error',
    '-ss',
    String(time),
    '-i',
    file,
    '-frames:v',
    '1',
    '-vf',
    `crop=${width}:${height}:${x}:${y},format=gray`,
    '-f',
    'rawvideo',
    '-',
  ])
  return Math.max(...Array.from(raw, (value, i) => (i % width === 0 ? 0 : Math.abs(value - raw[i - 1]!))))
}

describe('what is put in', () => {
  test('cards at both ends and a picture between push the rest along', async () => {
    const card = {
      kind: 'card' as const,
      title: 'Glaciers',
      text: 'Norrhaven Polar College',
      seconds: 2,
      ink: '#ffffff',
      ground: '#1b4b57',
    }
    const { out, made } = await render(
      'cards.mp4',
      [
        { do: 'insert', id: 'title', at: at(0), what: card },
        { do: 'insert', id: 'end', at: at(12), what: { ...card, seconds: 1.5 } },
        { do: 'insert', id: 'still', at: at(5), what: { kind: 'picture', file: 'blue.png', seconds: 1 } },
      ],
      { assets: { 'blue.png': blue } },
    )
    expect(made.duration).toBeCloseTo(16.5, 3)
    expect(duration(out, 'v')).toBeCloseTo(16.5, 1)
    // The corner of the card has its ground's colour (BT.709: 69, 133, 101), its middle has letters.
    expect(Math.abs(colour(out, 1, [4, 4, 40, 40])[0]! - 77)).toBeLessThan(12)
    expect(detail(out, 1, [60, 100, 300, 160])).toBeGreaterThan(1)
    expect(frameNumbers(out).filter((n) => n === 0 || n === 100)).toContain(100)
    expect(colour(out, 7.5, [300, 150, 40, 40])[1]!).toBeGreaterThan(170)
    const heard = samples(out)
    const meant = samples(source)
    expect(Math.abs(lag(heard, 3, meant, 1).lag)).toBeLessThan(0.02)
    expect(Math.abs(lag(heard, 12, meant, 9).lag)).toBeLessThan(0.02)
    expect(Math.max(...heard.subarray(0.2 * 48_000, 1.8 * 48_000).map(Math.abs))).toBeLessThan(0.01)
  })

  lengthy('another video brings its own frames and sound', async () => {
    const { out, made } = await render(
      'video.mp4',
      [{ do: 'insert', id: 'clip', at: at(4), what: { kind: 'video', file: 'clip', from: at(1), to: at(3) } }],
      { assets: { clip: webm } },
    )
    expect(made.duration).toBeCloseTo(14, 3)
    expect(made.note).toContain('coded differently')
    // Scaled from 320 px: its own bar code is read where it then stands.
    expect(frameNumbers(out).slice(130, 140)).toEqual(Array.from({ length: 10 }, (_, i) => 40 + i))
    expect(Math.abs(lag(samples(out), 5, samples(webm), 2).lag)).toBeLessThan(0.02)
    expect(frameNumbers(out).slice(-10)).toEqual(Array.from({ length: 10 }, (_, i) => 350 + i))
  })
})

describe('what is laid over', () => {
  test('masks hide their area, for their time only, and the rest is copied', async () => {
    const { out, made } = await render('mask.mp4', [
      {
        do: 'stretch',
        id: 'blur',
        from: at(3),
        to: at(5),
        what: { kind: 'mask', how: 'blur', box: { x: 0.25, y: 0.25, width: 0.5, height: 0.5 } },
      },
      {
        do: 'stretch',
        id: 'solid',
        from: at(4),
        to: at(5),
        what: { kind: 'mask', how: 'solid', box: { x: 0, y: 0.5, width: 0.2, height: 0.5 } },
      },
    ])
    expect(made.encoded).toBeLessThan(6.1)
    const box: [number, number, number, number] = [170, 100, 300, 160]
    expect(hardest(source, 3.5, box)).toBeGreaterThan(60)
    expect(hardest(out, 3.5, box)).toBeLessThan(25)
    expect(colour(out, 4.5, [10, 200, 100, 100])[0]).toBeLessThan(20)
    expect(frameNumbers(out)).toEqual(Array.from({ length: 360 }, (_, n) => n))
    for (const n of [88, 151, 300]) expect(likeness(out, n, source, n)).toBeGreaterThan(0.97)
  })

  test('text, a watermark and drawing stand where they were put', async () => {
    const { out } = await render(
      'over.mp4',
      [
        {
          do: 'stretch',
          id: 'text',
          from: at(1),
          to: at(4),
          what: {
            kind: 'text',
            box: { x: 0.2, y: 0.4, width: 0.6, height: 0.2 },
            text: 'Ablation',
            ink: '#ffffff',
            ground: '#1e2a2f',
          },
        },
        {
          do: 'stretch',
          id: 'mark',
          from: at(0),
          to: at(12),
          what: { kind: 'picture', box: { x: 0.8, y: 0.75, width: 0.2, height: 0.25 }, file: 'blue.png', opacity: 1 },
        },
        {
          do: 'stretch',
          id: 'ink',
          from: at(6),
          to: at(10),
          what: {
            kind: 'strokes',
            strokes: [
              {
                colour: '#e3a008',
                width: 0.05,
                opacity: 1,
                points: [
                  { x: 0.1, y: 0.5, at: 0 },
                  { x: 0.5, y: 0.5, at: 1 },
                ],
                until: 3,
              },
            ],
          },
        },
      ],
      { assets: { 'blue.png': blue } },
    )
    expect(colour(out, 2, [140, 150, 20, 50])[0]).toBeLessThan(60)
    for (const t of [0.5, 6, 11.5])
      expect(colour(out, t, [560, 300, 40, 40])[1]!, `watermark at ${t} s`).toBeGreaterThan(170)
    const line: [number, number, number, number] = [100, 176, 180, 8]
    expect(colour(out, 7.5, line)[1]!).toBeLessThan(60)
    expect(likeness(out, 190, source, 190)).toBeLessThan(likeness(out, 30, source, 30) + 1)
    expect(Math.abs(colour(out, 9.5, line)[1]! - colour(source, 9.5, line)[1]!)).toBeLessThan(12)
  })

  test('a layout that changes over time shows the camera only then', async () => {
    const { out } = await render(
      'layout.mp4',
      [
        { do: 'layout', layout: 'screen' },
        { do: 'stretch', id: 'inset', from: at(4), to: at(8), what: { kind: 'layout', layout: 'inset' } },
        { do: 'stretch', id: 'face', from: at(9), to: at(10), what: { kind: 'layout', layout: 'camera' } },
      ],
      { camera },
    )
    const corner: [number, number, number, number] = [540, 290, 60, 40]
    expect(colour(out, 6, corner)[2]!).toBeGreaterThan(170)
    expect(colour(out, 9.5, [300, 160, 40, 40])[2]!).toBeGreaterThan(170)
    for (const t of [2, 11])
      expect(Math.abs(colour(out, t, corner)[2]! - colour(source, t, corner)[2]!)).toBeLessThan(12)
  })

  lengthy('a picture covers its slot by hand, and nothing of it or over it reaches out', async () => {
    // 4:3 in a slot of 160×270 px: 360×270, of which the middle is seen.
    const camera2 = inFolder('halves.mp4')
    const halves = 'color=#c02020:s=320x240:r=24:d=12,drawbox=x=160:w=160:h=240:color=#2040c0:t=fill'
    ffmpeg('-f', 'lavfi', '-i', halves, '-pix_fmt', 'yuv420p', camera2)
    const box = { x: 0.5, y: 0.25, width: 0.25, height: 0.75 }
    const layout = [
      { feed: 'screen', box: whole, fit: 'contain' as const },
      { feed: 'camera', box, fit: 'cover' as const },
    ]
    const words = { kind: 'picture' as const, file: 'blue.png', opacity: 1, on: 'camera' }
    const { out } = await render(
      'slots.mp4',
      [
        { do: 'layout', layout },
        {
          do: 'stretch',
          id: 'over',
          from: at(8),
          to: at(12),
          what: { ...words, box: { x: 0, y: 0.4, width: 1, height: 0.2 } },
        },
      ],
      { camera: camera2, assets: { 'blue.png': blue } },
    )
    expect(colour(out, 4, [330, 120, 40, 60])[2]!, 'its left half').toBeGreaterThan(170)
    expect(colour(out, 4, [430, 120, 40, 60])[1]!, 'its right half').toBeGreaterThan(170)
    // Beside the slot, and above it, there is the screen, with what lies over the camera too.
    for (const t of [4, 10])
      for (const beside of [
        [240, 150, 70, 60],
        [490, 150, 70, 60],
        [330, 20, 140, 60],
      ] as const)
        expect(Math.abs(colour(out, t, [...beside])[0]! - colour(source, t, [...beside])[0]!)).toBeLessThan(6)
    expect(detail(out, 4, [330, 120, 60, 200])).toBeLessThan(0.5)
  })

  test('fades go through black at a seam and nowhere else', async () => {
    const { out, made } = await render('fade.mp4', [...cuts([4, 6]), { do: 'fade', seconds: 0.5 }])
    const all: [number, number, number, number] = [0, 40, 640, 320]
    expect(colour(out, 3.95, all)[0]).toBeLessThan(35)
    expect(colour(out, 4, all)[0]).toBeLessThan(35)
    expect(Math.abs(colour(out, 3, all)[0]! - colour(source, 3, all)[0]!)).toBeLessThan(6)
    expect(made.encoded).toBeLessThan(4)
  })
})

describe('sound', () => {
  const loudness = (file: string) => {
    const text = execFileSync(
      'bash',
      ['-c', `ffmpeg -nostats -i '${file}' -map 0:a -af ebur128=peak=true -f null - 2>&1 | tail -20`],
      { encoding: 'utf8' },
    )
    return {
      integrated: Number(/I:\s+(-?[\d.]+) LUFS/.exec(text)?.[1]),
      peak: Number(/Peak:\s+(-?[\d.]+) dBFS/.exec(text)?.[1]),
    }
  }
  test('is brought to a loudness without passing the true peak', async () => {
    const { out } = await render('loud.mp4', [
      { do: 'sound', treatment: { noise: 'keep', loudness: -14, truePeak: -1.5 } },
    ])
    const found = loudness(out)
    expect(Math.abs(found.integrated + 14)).toBeLessThan(0.6)
    // The coder adds a little to the peaks that were limited before it.
    expect(found.peak).toBeLessThan(-0.7)
    expect(Math.abs(lag(samples(out), 8, samples(source), 8).lag)).toBeLessThan(0.003)
  })
  /** Root mean square of a stretch, s. */
  const level = (x: Float32Array, from: number, to: number) =>
    Math.sqrt(x.subarray(from * 48_000, to * 48_000).reduce((sum, v) => sum + v * v, 0) / ((to - from) * 48_000))
  /** Amplitude of a tone in a stretch, s (Goertzel). */
  function tone(x: Float32Array, hertz: number, from: number, to: number): number {
    const part = x.subarray(from * 48_000, to * 48_000)
    const w = (2 * Math.PI * hertz) / 48_000
    const [re, im] = part.reduce(([a, b], v, n) => [a + v * Math.cos(w * n), b + v * Math.sin(w * n)], [0, 0] as [
      number,
      number,
    ])
    return (2 * Math.hypot(re, im)) / part.length
  }
  const sounding = (name: string, hertz: number, coding: string[]) => {
    const file = inFolder(name)
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=25:duration=12'],
      ...['-f', 'lavfi', '-i', `sine=frequency=${hertz}:sample_rate=48000:duration=12`],
      ...[...coding, file],
    )
    return file
  }
  const aac = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-g', '50', '-c:a', 'aac', '-b:a', '128k']
  const levelled = (id: string, from: number, to: number, gain: number | null): EditCommand => ({
    ...{ do: 'stretch', id, from: at(from), to: at(to) },
    what: { kind: 'level', gain },
  })

  const coded = [
    ['AAC', 'tone.mp4', 'mp4', aac],
    ['Opus', 'tone.webm', 'webm', ['-c:v', 'libvpx', '-deadline', 'realtime', '-c:a', 'libopus']],
  ] as const
  test.each(atLength ? coded : coded.slice(0, 1))(
    '%s is made louder, quieter or silent for a stretch, without a gap at its edges',
    async (_, name, format, coding) => {
      const file = sounding(name, 300, [...coding])
      const { out, made } = await render(
        `level-${name}`,
        [levelled('quiet', 2, 4, -12), levelled('loud', 5, 7, 6), levelled('silent', 8, 10, null)],
        { file, format },
      )
      expect(made.note).toBe('')
      const [before, after] = [samples(file), samples(out)]
      const as = (from: number, to: number) => level(after, from, to) / level(before, from, to)
      expect(as(0.5, 1.9)).toBeCloseTo(1, 1)
      expect(as(2.1, 3.9)).toBeCloseTo(0.251, 1)
      expect(as(5.1, 6.9)).toBeCloseTo(1.995, 1)
      expect(as(8.1, 9.9)).toBeLessThan(0.01)
      expect(as(10.2, 11.5)).toBeCloseTo(1, 1)
      // A tone that goes on: nowhere at an edge is it softer than on the softer side. Where Opus that was copied meets Opus
      // that is new, their overlaps differ for one packet of 10 ms.
      const least = format === 'webm' ? 0.5 : 0.75
      for (const [edge, softer] of [
        [2, 0.25],
        [4, 0.25],
        [5, 1],
        [7, 1],
      ] as const)
        for (let t = edge - 0.05; t < edge + 0.05; t += 0.005)
          expect(as(t, t + 0.01), `${t} s`).toBeGreaterThan(least * softer)
      expect(Math.abs(lag(after, 11, before, 11).lag)).toBeLessThan(0.02)
    },
  )

  lengthy('a video laid over is heard alone, or with the lecture lowered', async () => {
    const [file, clip] = [sounding('low.mp4', 300, aac), sounding('high.mp4', 1200, aac)]
    const over = (id: string, from: number, under?: number): EditCommand => ({
      ...{ do: 'stretch', id, from: at(from), to: at(from + 2) },
      what: {
        ...{ kind: 'video', box: { x: 0.5, y: 0, width: 0.5, height: 0.5 }, file: 'clip', sound: true },
        ...(under !== undefined && { under }),
      },
    })
    const { out } = await render('both.mp4', [over('alone', 2), over('both', 6, -12)], { file, assets: { clip } })
    const heard = samples(out)
    const plain = { low: tone(heard, 300, 0.5, 1.5), high: tone(samples(clip), 1200, 0.5, 1.5) }
    expect(tone(heard, 1200, 2.5, 3.5) / plain.high).toBeCloseTo(1, 1)
    expect(tone(heard, 300, 2.5, 3.5) / plain.low).toBeLessThan(0.02)
    expect(tone(heard, 1200, 6.5, 7.5) / plain.high).toBeCloseTo(1, 1)
    expect(tone(heard, 300, 6.5, 7.5) / plain.low).toBeCloseTo(0.251, 1)
    expect(tone(heard, 300, 9, 10) / plain.low).toBeCloseTo(1, 1)
  })
  lengthy('loses it in stretches that are treated side by side, without a seam between them', async () => {
    const noisy = inFolder('noisy-long.m4a')
    const speech = inFolder('speech-long.wav')
    const said =
      'Glaciers move slowly. The snow that falls on them becomes ice, and the ice flows downhill by its weight.'
    execFileSync('flite', ['-voice', 'slt', '-t', said, '-o', speech])
    const noise = 'anoisesrc=c=white:a=0.02:r=48000:seed=3:d=95'
    const mixed = '[0:a]aresample=48000[s];[s][1:a]amix=inputs=2:duration=shortest:normalize=0'
    ffmpeg('-stream_loop', '-1', '-i', speech, '-f', 'lavfi', '-i', noise, '-filter_complex', mixed, noisy)
    const out = inFolder('quiet-long.m4a')
    const sound = { noise: 'reduce' as const, loudness: -16, truePeak: -1 }
    await engine.render({ file: noisy, edit: { ...edit(), sound }, format: 'm4a' }, out, () => undefined)
    const [before, after] = [samples(noisy), samples(out)]
    expect(Math.abs(after.length - before.length)).toBeLessThan(4800)
    for (const joint of [30, 60, 90]) {
      // In its place on both sides, and no click: no step that speech does not have.
      for (const side of [joint - 2, joint + 1])
        expect(Math.abs(lag(after, side, before, side).lag)).toBeLessThan(0.002)
      const step = (from: number, to: number) =>
        after
          .subarray(from * 48_000, to * 48_000)
          .reduce((most, s, i, all) => Math.max(most, Math.abs(s - (all[i - 1] ?? s))), 0)
      expect(step(joint - 0.1, joint + 0.1)).toBeLessThan(1.2 * step(joint - 6, joint - 1))
    }
  })
  test('loses steady noise and keeps its place', async () => {
    const speech = inFolder('speech.wav')
    execFileSync('flite', [
      '-voice',
      'slt',
      '-t',
      'Glaciers move slowly. The snow that falls on them becomes ice, and the ice flows downhill under its own weight.',
      '-o',
      speech,
    ])
    const noisy = inFolder('noisy.wav')
    ffmpeg(
      '-i',
      speech,
      '-f',
      'lavfi',
      '-i',
      'anoisesrc=c=white:a=0.02:r=48000:seed=3',
      '-filter_complex',
      '[0:a]aresample=48000,adelay=1500:all=1,apad=pad_dur=1.5[s];[s][1:a]amix=inputs=2:duration=first:normalize=0',
      '-ar',
      '48000',
      noisy,
    )
    const out = inFolder('clean.m4a')
    const made = await engine.render(
      {
        file: noisy,
        edit: edit({ do: 'sound', treatment: { noise: 'reduce', loudness: null, truePeak: -1 } }),
        format: 'm4a',
      },
      out,
      () => undefined,
    )
    expect(made.note).toBe('')
    const rms = (x: Float32Array, from: number, to: number) =>
      Math.sqrt(x.subarray(from * 48_000, to * 48_000).reduce((sum, s) => sum + s * s, 0) / ((to - from) * 48_000))
    const [before, after] = [samples(noisy), samples(out)]
    expect(rms(after, 0.3, 1.2)).toBeLessThan(0.1 * rms(before, 0.3, 1.2))
    expect(rms(after, 2, 5)).toBeGreaterThan(0.6 * rms(before, 2, 5))
    const found = [2.2, 3.1, 4.2].map((t) => lag(after, t, before, t)).sort((a, b) => b.likeness - a.likeness)[0]!
    expect(found.likeness).toBeGreaterThan(0.8)
    expect(Math.abs(found.lag)).toBeLessThan(0.002)
  })
})

describe('forms', () => {
  const vtt = 'WEBVTT\n\n00:00:01.000 --> 00:00:03.000\nGlaciers move.\n'
  const captions = { language: 'en', label: 'English', vtt }
  const stamp = (seconds: number) => writeTimestamp(seconds, '.')
  const streams = (file: string) =>
    execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=codec_type,codec_name', '-of', 'csv=p=0', file], {
      encoding: 'utf8',
    })
      .trim()
      .split('\n')
      .sort()
  test('MP4 carries captions as timed text, which other programs read', async () => {
    const cues = Array.from(
      { length: 400 },
      (_, i) => `${stamp(0.02 * i + 1)} --> ${stamp(0.02 * i + 1.02)}\nWord ${i}.\n`,
    )
    const many = { ...captions, vtt: `WEBVTT\n\n${cues.join('\n')}` }
    for (const [name, given, count] of [
      ['captions.mp4', captions, 1],
      ['many.mp4', many, 400],
    ] as const) {
      const { out } = await render(name, cuts([2, 3]), { captions: given, chapters: [{ at: 0, title: 'Gain' }] })
      expect(streams(out)).toContain('mov_text,subtitle')
      const srt = execFileSync('ffmpeg', ['-v', 'error', '-i', out, '-map', '0:s', '-f', 'srt', '-'], {
        encoding: 'utf8',
      })
      const said = readSrt(srt.replace(/<\/?font[^>]*>/g, ''), () => '').cues.map(({ from, to, text }) => [
        from,
        to,
        text,
      ])
      const meant = readVtt(given.vtt, () => '').cues.map(({ from, to, text }) => [from, to, text])
      expect(said).toEqual(meant)
      expect(said).toHaveLength(count)
    }
  })
  test('captions and link cards are burnt into the picture where they are shown, and the rest is copied', async () => {
    const box = { x: 0.1, y: 0.1, width: 0.4, height: 0.2 }
    const card = { id: 'l', from: 4, to: 5, words: 'The data', target: { at: 0 }, box, corner: 0.02 }
    const burnt = { vtt, links: [{ ...card, ink: '#ffffff', ground: '#0000ff' }] }
    const { out, made } = await render('burnt.mp4', cuts([2, 3]), { burnt })
    const { out: plain } = await render('plain.mp4', cuts([2, 3]))
    expect(frameNumbers(out)).toEqual(frameNumbers(plain))
    expect(made.encoded).toBeGreaterThan(3)
    expect(made.encoded).toBeLessThan(7)
    const lightAt = (file: string, time: number) => colour(file, time, [300, 343, 40, 2])[0]!
    const cardAt = (time: number) => colour(out, time, [70, 50, 10, 40])[1]!
    expect(lightAt(out, 2)).toBeLessThan(0.6 * lightAt(plain, 2))
    expect(Math.abs(lightAt(out, 3.5) - lightAt(plain, 3.5))).toBeLessThan(4)
    // Blue has much of Cb.
    expect(cardAt(4.5)).toBeGreaterThan(200)
    expect(cardAt(5.5)).toBeLessThan(200)
  })
  lengthy('WebM of an H.264 recording is encoded anew, and says why', async () => {
    const { out, made } = await render('other.webm', cuts([2, 9.5]), { format: 'webm', captions })
    expect(made.note).toContain('H.264')
    expect(streams(out).join()).toMatch(/opus.*vp9|vp9.*opus/)
    expect(frameNumbers(out)).toHaveLength(135)
  })
  test('sound alone is copied', async () => {
    const { out, made } = await render('sound.m4a', cuts([2, 3]), { format: 'm4a' })
    expect(streams(out)).toEqual(['aac,audio'])
    expect(made.note).toBe('')
  })
  test('HLS is a folder of small files that another program plays, with captions', async () => {
    const { out, made } = await render('lecture.hls', cuts([2, 3]), { format: 'hls', captions })
    expect(readdirSync(out).sort()).toEqual([...made.files].sort())
    const main = readFileSync(join(out, 'index.m3u8'), 'utf8')
    expect(main).toContain('TYPE=SUBTITLES')
    expect(main).toContain('SUBTITLES="captions"')
    expect(readFileSync(join(out, 'captions.vtt'), 'utf8')).toBe(vtt)
    const joined = inFolder('from-hls.mp4')
    ffmpeg('-i', join(out, 'index.m3u8'), '-map', '0:v', '-map', '0:a', '-c', 'copy', joined)
    expect(frameNumbers(joined)).toEqual(Array.from({ length: 360 }, (_, n) => n).filter((n) => n < 60 || n >= 90))
    expect(Math.abs(lag(samples(joined), 5, samples(source), 6).lag)).toBeLessThan(0.02)
  })
  lengthy('a part seen over the whole frame covers it', async () => {
    const { out } = await render(
      'cover.mp4',
      [
        {
          do: 'stretch',
          id: 'p',
          from: at(2),
          to: at(4),
          what: { kind: 'picture', box: whole, file: 'blue.png', opacity: 1 },
        },
      ],
      { assets: { 'blue.png': blue } },
    )
    expect(colour(out, 3, [300, 150, 40, 40])[1]!).toBeGreaterThan(170)
    // 4:3 in 16:9 stands in the middle; the recording is seen beside it.
    expect(frameNumbers(out)).toHaveLength(360)
  })
})
