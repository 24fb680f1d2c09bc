/**
 * Films for judging the engine: every frame carries its number as a bar code, and the sound is noise that never
 * repeats.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export const folder = mkdtempSync(join(tmpdir(), 'thaw-engine-'))
export const removeFilms = () => rmSync(folder, { recursive: true, force: true })
export const inFolder = (name: string) => join(folder, name)

export const ffmpeg = (...args: string[]): void =>
  void execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { stdio: ['ignore', 'ignore', 'pipe'] })

/** Blocks of the bar code: enough for 65,536 frames. */
const BITS = 16

export interface FilmOptions {
  seconds: number
  rate?: number
  width?: number
  height?: number
  /** How picture and sound are coded, as ffmpeg's arguments. */
  coding: readonly string[]
  /** The sound, as a filter of ffmpeg's; null for none. */
  sound?: string | null
}

const noise = 'anoisesrc=c=pink:r=48000:a=0.35:seed=7'

/** Makes a film. Bits of the frame's number stand along the top, white for 1. */
export function film(
  name: string,
  { seconds, rate = 30, width = 640, height = 360, coding, sound = noise }: FilmOptions,
): string {
  const file = inFolder(name)
  const bar = Math.floor(width / BITS)
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    `testsrc2=s=${width}x${height}:r=${rate}:d=${seconds}`,
    '-f',
    'lavfi',
    '-i',
    `color=black:s=${BITS}x2:r=${rate}:d=${seconds},format=yuv420p,geq=lum='if(mod(floor(N/pow(2,X)),2),235,16)':cb=128:cr=128,scale=${bar * BITS}:24:flags=neighbor`,
    ...(sound ? ['-f', 'lavfi', '-i', `${sound}:d=${seconds}`] : []),
    '-filter_complex',
    '[0:v][1:v]overlay=0:0:format=yuv420,format=yuv420p[v]',
    '-map',
    '[v]',
    ...(sound ? ['-map', '2:a'] : []),
    ...coding,
    file,
  )
  return file
}

/** The usual ways of coding, by name; a key frame every two seconds, off the cuts that the tests make. */
export const codings: Record<string, { extension: string; args: readonly string[] }> = {
  'H.264 and AAC': {
    extension: 'mp4',
    args: [
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-b:v',
      '1500k',
      '-g',
      '60',
      '-keyint_min',
      '60',
      '-sc_threshold',
      '0',
      '-c:a',
      'aac',
      '-b:a',
      '128k',
      '-ac',
      '2',
    ],
  },
  'VP8 and Opus': {
    extension: 'webm',
    args: [
      '-c:v',
      'libvpx',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
      '-b:v',
      '1500k',
      '-g',
      '60',
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
  'VP9 and Opus': {
    extension: 'webm',
    args: [
      '-c:v',
      'libvpx-vp9',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
      '-row-mt',
      '1',
      '-b:v',
      '1500k',
      '-g',
      '60',
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
  'AV1 and Opus': {
    extension: 'webm',
    args: [
      '-c:v',
      'libaom-av1',
      '-usage',
      'realtime',
      '-cpu-used',
      '8',
      '-row-mt',
      '1',
      '-b:v',
      '1500k',
      '-g',
      '60',
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
}
