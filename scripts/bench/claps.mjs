// When a recording's claps are seen and heard, found by ffmpeg in its files.
import { execFileSync } from 'node:child_process'

/** Knocks are at 1 kHz; so many samples a second show them to an eighth of a millisecond. */
const RATE = 8000
const ffmpeg = (args) => execFileSync('ffmpeg', ['-v', 'error', ...args], { maxBuffer: 1 << 30 })

/**
 * Where a signal first exceeds a threshold, again only after `apart` seconds; s.
 * @param {ArrayLike<number>} values
 * @param {(i: number) => number} timeOf
 * @param {number} threshold
 * @param {number} apart
 */
function onsets(values, timeOf, threshold, apart) {
  /** @type {number[]} */
  const out = []
  for (let i = 0; i < values.length; i++) {
    const t = timeOf(i)
    if ((values[i] ?? 0) > threshold && t - (out.at(-1) ?? -Infinity) > apart) out.push(t)
  }
  return out
}

/**
 * Instants (s of the file's own time) of the first frame of each flash.
 * @param {string} file
 */
export function seen(file) {
  const times = execFileSync(
    'ffprobe',
    [
      '-v',
      'error',
      '-select_streams',
      'v',
      '-show_entries',
      'frame=best_effort_timestamp_time',
      '-of',
      'csv=p=0',
      file,
    ],
    { encoding: 'utf8', maxBuffer: 1 << 28 },
  )
    .trim()
    .split('\n')
    .map((line) => Number.parseFloat(line))
  const luma = ffmpeg([
    '-i',
    file,
    '-map',
    '0:v',
    '-vsync',
    'passthrough',
    '-vf',
    'scale=1:1:flags=area,format=gray',
    '-f',
    'rawvideo',
    '-',
  ])
  return onsets(luma, (i) => times[i] ?? NaN, 250, 1)
}

/**
 * Instants (s of the file's own time) at which each knock of 1 kHz begins.
 * @param {string} file
 */
export function heard(file) {
  const raw = ffmpeg([
    '-i',
    file,
    '-map',
    '0:a',
    '-ac',
    '1',
    '-ar',
    String(RATE),
    '-af',
    'bandpass=f=1000:width_type=h:w=120',
    '-f',
    'f32le',
    '-',
  ])
  const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
  return onsets(samples.map(Math.abs), (i) => i / RATE, 0.25, 1)
}

/**
 * For each clap that is seen, by how many seconds it is heard later; both in the take's time.
 * @param {{ file: string, offset: number }} picture
 * @param {{ file: string, offset: number }} sound
 */
export function apart(picture, sound) {
  const knocks = heard(sound.file).map((t) => t + sound.offset)
  return seen(picture.file).map((t) => {
    const at = t + picture.offset
    const nearest = knocks.reduce((best, k) => (Math.abs(k - at) < Math.abs(best - at) ? k : best), Infinity)
    return { at, by: nearest - at }
  })
}
