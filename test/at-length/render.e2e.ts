/**
 * A cut is where the edit says: a film with a counter in its picture and in its sound is brought in, cut and
 * published, and another program reads both counters back on both sides of every seam.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, expect, test } from 'vitest'
import { person } from '../person'
import { published, publishedStills } from '../published'
import { AUTHOR_KEY } from '../serve'
import { served } from '../served'

const origin = served.origin
const folder = mkdtempSync(join(tmpdir(), 'thaw-render-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const RATE = 25
/** Pitch at a recorded second, Hz. */
const pitch = (second: number) => 400 + 100 * second

function film(): string {
  const seconds = 12
  const file = join(folder, 'counter.mp4')
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `color=black:s=320x180:r=${RATE}:d=${seconds},geq=lum='24+16*floor(T)':cb=128:cr=128`,
    '-f',
    'lavfi',
    '-i',
    `aevalsrc='0.4*sin(2*PI*(400+100*floor(t))*t)':s=48000:d=${seconds}`,
    '-pix_fmt',
    'yuv420p',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    '10',
    '-g',
    '125',
    '-c:a',
    'aac',
    '-b:a',
    '128k',
    file,
  ])
  return file
}

/** Mean luma of each frame of a file, or of a part of it. */
function lumas(file: string, crop = 'null'): number[] {
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', file, '-vf', `${crop},scale=1:1:flags=area,format=gray`, '-f', 'rawvideo', '-'],
    { maxBuffer: 1 << 28 },
  )
  return [...raw]
}
/** The strongest of the counter's pitches in a window of a file's sound (Goertzel). */
function heard(samples: Float32Array, from: number, to: number): number {
  let best = { second: -1, power: 0 }
  for (let second = 0; second < 12; second++) {
    let re = 0
    let im = 0
    for (let i = Math.round(from * 48_000); i < Math.round(to * 48_000); i++) {
      const phase = (2 * Math.PI * pitch(second) * i) / 48_000
      re += (samples[i] ?? 0) * Math.cos(phase)
      im += (samples[i] ?? 0) * Math.sin(phase)
    }
    if (re * re + im * im > best.power) best = { second, power: re * re + im * im }
  }
  return best.second
}

test('shows and sounds, on both sides of every seam, what the edit says', async () => {
  const who = await person()
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.click('button', 'New lecture in PS 340, week 5')
  const input = (await who.page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
  const source = film()
  await input.uploadFile(source)
  await who.find('slider', 'Playhead', 60_000)
  for (const [from, to] of [
    ['0:07', '0:08'],
    ['0:02', '0:04'],
  ]) {
    await who.type('From', from!)
    await who.type('To', to!)
    await who.click('button', 'Take out')
    await who.see(`Took out ${from}.0 – ${to}.0`)
  }
  await who.click('link', 'Release: Not on a course page yet')
  await who.click('button', 'Publish')
  await who.see('What students get is what stands here.', 120_000)
  expect(who.errors).toEqual([])
  await who.leave()

  const { file: out, duration } = published(served.dataFolder, 'counter')
  expect(duration).toBeCloseTo(9, 1)

  // Seconds of the recording, in the order in which the result has to show them.
  const order = [0, 1, 4, 5, 6, 8, 9, 10, 11]
  const frames = lumas(out)
  expect(frames).toHaveLength(order.length * RATE)
  // The picture is one grey that is brighter every second: a frame's own brightness says when it was recorded.
  const greys = lumas(source).filter((_, i) => i % RATE === 12)
  const recordedAt = (luma: number) =>
    greys.reduce(
      (best, grey, second) => (Math.abs(grey - luma) < Math.abs((greys[best] ?? 0) - luma) ? second : best),
      0,
    )
  expect(frames.map(recordedAt)).toEqual(order.flatMap((second) => Array<number>(RATE).fill(second)))

  // Each still is from the stretch that it stands for.
  const { file: sheet, stills } = publishedStills(served.dataFolder, 'counter')
  expect(stills).toHaveLength(5)
  for (const { from, to, x, y, width, height } of stills) {
    const [grey = 0] = lumas(sheet, `crop=${width}:${height}:${x}:${y}`)
    // JPEG has the full range; the film was made in the limited one.
    const second = Math.round((16 + (grey * 219) / 255 - 24) / 16)
    expect(order.slice(from, to), `the still of ${from} s`).toContain(second)
  }

  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', out, '-ac', '1', '-ar', '48000', '-f', 'f32le', '-'], {
    maxBuffer: 1 << 28,
  })
  const samples = new Float32Array(raw.buffer, raw.byteOffset, raw.length >> 2)
  order.forEach((second, i) => {
    // From 25 ms behind the change to 25 ms before the next: no drift may push a pitch over its seam.
    expect(heard(samples, i + 0.025, i + 0.125), `sound after ${i} s`).toBe(second)
    expect(heard(samples, i + 0.875, i + 0.975), `sound before ${i + 1} s`).toBe(second)
  })
})
