// A cut of a film of open groups: half an hour of 1080p, an intra picture every 5 s of which one a minute is an IDR
// picture, twenty removed ranges, against ffmpeg copying it roughly. Its frames are judged by ffmpeg: those that are
// copied have to be the source's to the bit.
import { execFileSync } from 'node:child_process'
import { rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { editOf, ffmpeg, keptOf, made, round, spread, timed, watched } from './tools.mjs'

/** A minute, begun by an IDR picture and repeated. */
const minute = (path) =>
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=30:d=60'],
    ...['-f', 'lavfi', '-i', 'anoisesrc=c=pink:r=48000:a=0.3:seed=5:d=60'],
    ...['-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-preset', 'fast', '-b:v', '2500k'],
    ...['-x264-params', 'open-gop=1:keyint=150:scenecut=0:bframes=3'],
    ...['-c:a', 'aac', '-b:a', '96k', '-ac', '2'],
    path,
  )

const digests = (path, frames) =>
  execFileSync(
    'ffmpeg',
    [
      ...['-v', 'error', '-i', path, '-map', '0:v', '-vsync', 'passthrough'],
      '-frames:v',
      frames,
      '-f',
      'framemd5',
      '-',
    ],
    { encoding: 'utf8', maxBuffer: 1 << 28 },
  )
    .split('\n')
    .filter((line) => line && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1).trim())

export async function openGroups({ engine, minutes, reference, folder, say, figure }) {
  const length = Math.min(30, minutes) * 60
  const one = await made(folder, 'open-1.mp4', minute, say)
  const file = await made(
    folder,
    `open-${length / 60}.mp4`,
    (path) => ffmpeg('-stream_loop', String(length / 60 - 1), '-i', one, '-c', 'copy', path),
    say,
  )
  const ranges = spread(length, 20).map((range) => range.map((t) => Math.round(t * 30) / 30))
  const out = join(folder, 'open-cut.mp4')
  say(`cutting ${length / 60} min of open groups …`)
  const ours = await watched(engine, () =>
    engine.render({ file, edit: editOf(ranges), format: 'mp4' }, out, () => undefined),
  )
  const list = join(folder, 'open.txt')
  const kept = keptOf(ranges, length)
  writeFileSync(
    list,
    `ffconcat version 1.0\n${kept.map(([from, to]) => `file '${file}'\ninpoint ${from}\noutpoint ${to}`).join('\n')}\n`,
  )
  const rough = join(folder, 'open-copy.mp4')
  const copy = await timed(() => ffmpeg('-f', 'concat', '-safe', '0', '-i', list, '-c', 'copy', rough))
  say('ffmpeg decodes both …')
  const judged = Math.min(length, reference * 60) * 30
  const expected = digests(file, judged).filter(
    (_, n) => !ranges.some(([a, b]) => n >= a * 30 - 0.01 && n < b * 30 - 0.01),
  )
  const frames = digests(out, expected.length)
  figure({
    input: 'H.264, open groups',
    minutes: length / 60,
    cuts: ranges.length,
    seconds: round(ours.seconds),
    timesRealTime: round(length / ours.seconds, 1),
    encodedAnew: round(ours.value.encoded, 1),
    framesJudged: expected.length,
    framesThatDiffer: frames.filter((digest, i) => digest !== expected[i]).length,
    ffmpegCopySeconds: round(copy.seconds),
    slowerThanCopy: round(ours.seconds / copy.seconds, 1),
    peakMegabytes: Math.round(ours.megabytes),
  })
  for (const path of [out, rough, list]) rmSync(path)
}
