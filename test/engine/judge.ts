/** Judges what the engine made with another program: ffmpeg decodes, and numbers are read back. */
import { execFileSync, spawnSync } from 'node:child_process'
import { apply, newEdit } from '#core/edit/edit'
import type { EditDocument } from '#core/schema/edit'
import type { EditCommand } from '#core/schema/edit-command'
import { recorded } from '#core/time/units'

const run = (args: readonly string[]) =>
  execFileSync('ffmpeg', ['-v', 'error', ...args], { maxBuffer: 1 << 30, stdio: ['ignore', 'pipe', 'pipe'] })

/** What ffmpeg complains about while it decodes everything; empty when nothing. */
export const complaints = (file: string): string =>
  spawnSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'null', '-'], { encoding: 'utf8' }).stderr

/** The numbers that a film's frames carry, one for each frame that is in the file. */
export function frameNumbers(file: string, width = 640): number[] {
  const bar = Math.floor(width / 16) * 16
  const raw = run([
    '-i',
    file,
    '-vsync',
    'passthrough',
    '-map',
    '0:v',
    '-vf',
    `crop=${bar}:16:0:4,scale=16:1:flags=area,format=gray`,
    '-f',
    'rawvideo',
    '-',
  ])
  return Array.from({ length: raw.length / 16 }, (_, frame) =>
    [...raw.subarray(16 * frame, 16 * frame + 16)].reduce((n, luma, bit) => n + (luma > 125 ? 2 ** bit : 0), 0),
  )
}

/** A digest of each frame's pixels, in the order of showing. */
export const frameDigests = (file: string): string[] =>
  run(['-i', file, '-map', '0:v', '-vsync', 'passthrough', '-f', 'framemd5', '-'])
    .toString()
    .split('\n')
    .filter((line) => line && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1)?.trim() ?? '')

/** When each frame is shown, s. */
export function frameTimes(file: string): number[] {
  const text = execFileSync(
    'ffprobe',
    ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts_time', '-of', 'csv=p=0', file],
    { encoding: 'utf8', maxBuffer: 1 << 28 },
  )
  return text
    .trim()
    .split('\n')
    .map((line) => Number.parseFloat(line))
    .sort((a, b) => a - b)
}

/** Likeness of two frames, by number, of two files of one size (SSIM over luma and chroma). */
export function likeness(a: string, frameA: number, b: string, frameB: number): number {
  const { stderr } = spawnSync(
    'ffmpeg',
    [
      '-v',
      'info',
      '-i',
      a,
      '-i',
      b,
      '-filter_complex',
      `[0:v]select=eq(n\\,${frameA}),setpts=0[x];[1:v]select=eq(n\\,${frameB}),setpts=0[y];[x][y]ssim`,
      '-frames:v',
      '1',
      '-f',
      'null',
      '-',
    ],
    { encoding: 'utf8' },
  )
  return Number(/All:([\d.]+)/.exec(stderr)?.[1] ?? NaN)
}

/** Mono samples at 48 kHz. */
export function samples(file: string): Float32Array {
  const raw = run(['-i', file, '-map', '0:a', '-ac', '1', '-ar', '48000', '-f', 'f32le', '-'])
  return new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
}

/**
 * By how many seconds `heard` around `at` is later than `meant` around `meantAt`, by cross-correlation of 60 ms
 * within ±40 ms; and how alike they then are, 0…1.
 */
export function lag(
  heard: Float32Array,
  at: number,
  meant: Float32Array,
  meantAt: number,
): { lag: number; likeness: number } {
  const length = 2880
  const reach = 1920
  const a = Math.round(at * 48_000)
  const b = Math.round(meantAt * 48_000)
  let best = { lag: NaN, likeness: -1 }
  for (let shift = -reach; shift <= reach; shift++) {
    let dot = 0
    let aa = 0
    let bb = 0
    for (let i = 0; i < length; i += 2) {
      const x = heard[a + shift + i] ?? 0
      const y = meant[b + i] ?? 0
      dot += x * y
      aa += x * x
      bb += y * y
    }
    const alike = dot / Math.sqrt(aa * bb || 1)
    if (alike > best.likeness) best = { lag: shift / 48_000, likeness: alike }
  }
  return best
}

/** Length of a file's picture or sound as its own index says, s; where it does not, to the end of its last packet. */
export function duration(file: string, stream: 'v' | 'a'): number {
  const ask = (what: string) =>
    execFileSync('ffprobe', ['-v', 'error', '-select_streams', stream, '-show_entries', what, '-of', 'csv=p=0', file], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    }).trim()
  const stated = Number.parseFloat(ask('stream=duration'))
  if (stated > 0) return stated
  return Math.max(
    ...ask('packet=pts_time,duration_time')
      .split('\n')
      .map((line) =>
        line
          .split(',')
          .slice(0, 2)
          .reduce((sum, x) => sum + (Number.parseFloat(x) || 0), 0),
      ),
  )
}

/** The edit that these commands make of a recording as long as they need. */
export const edit = (...commands: EditCommand[]): EditDocument => commands.reduce(apply, newEdit(recorded(86_400), 0))

/** Takes these stretches (s) out. */
export const cuts = (...ranges: [number, number][]): EditCommand[] =>
  ranges.map(([from, to], i) => ({ do: 'remove', id: `cut${i}`, from: recorded(from), to: recorded(to) }))
