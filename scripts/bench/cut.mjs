// A cut: an hour with twelve removed ranges off the key frames, against ffmpeg encoding the same cut and copying it
// roughly.
import { rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { editOf, ffmpeg, keptOf, made, round, spread, timed, watched } from './tools.mjs'

const minute = (codec) => [
  '-f',
  'lavfi',
  '-i',
  'testsrc2=s=1280x720:r=30:d=60',
  '-f',
  'lavfi',
  '-i',
  'anoisesrc=c=pink:r=48000:a=0.3:seed=5:d=60',
  '-pix_fmt',
  'yuv420p',
  ...codec,
  '-g',
  '150',
  '-keyint_min',
  '150',
]
export const codecs = {
  h264: {
    extension: 'mp4',
    coding: [
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-sc_threshold',
      '0',
      '-b:v',
      '1500k',
      '-c:a',
      'aac',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
  vp8: {
    extension: 'webm',
    coding: [
      '-c:v',
      'libvpx',
      '-deadline',
      'realtime',
      '-cpu-used',
      '8',
      '-b:v',
      '1500k',
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
  vp9: {
    extension: 'webm',
    coding: [
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
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
  av1: {
    extension: 'webm',
    coding: [
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
      '-c:a',
      'libopus',
      '-b:a',
      '96k',
      '-ac',
      '2',
    ],
  },
}

/** An input of any number of minutes: one minute is encoded and then repeated. */
export async function longFilm(name, minutes, { folder, say }) {
  const { extension, coding } = codecs[name]
  const one = await made(folder, `${name}-1.${extension}`, (path) => ffmpeg(...minute(coding), path), say)
  return made(
    folder,
    `${name}-${minutes}.${extension}`,
    (path) => ffmpeg('-stream_loop', String(minutes - 1), '-i', one, '-c', 'copy', path),
    say,
  )
}

export async function cut(bench) {
  const { engine, minutes, reference, folder, say, figure } = bench
  for (const [name, { extension }] of Object.entries(codecs)) {
    const file = await longFilm(name, minutes, bench)
    const length = minutes * 60
    const ranges = spread(length, 12)
    const kept = keptOf(ranges, length)
    const result = kept.reduce((sum, [from, to]) => sum + to - from, 0)
    const out = join(folder, `${name}-cut.${extension}`)
    say(`${name}: cutting ${minutes} min …`)
    const ours = await watched(engine, () =>
      engine.render({ file, edit: editOf(ranges), format: extension }, out, () => undefined),
    )

    const list = join(folder, `${name}.txt`)
    writeFileSync(
      list,
      `ffconcat version 1.0\n${kept.map(([from, to]) => `file '${file}'\ninpoint ${from}\noutpoint ${to}`).join('\n')}\n`,
    )
    const rough = join(folder, `${name}-copy.${extension}`)
    const copy = await timed(() => ffmpeg('-f', 'concat', '-safe', '0', '-i', list, '-c', 'copy', rough))

    const part = Math.min(reference, minutes) * 60
    const inside = kept
      .filter(([from]) => from < part)
      .map(([from, to]) => `between(t,${from},${Math.min(part, to)})`)
      .join('+')
    const encoded = join(folder, `${name}-encoded.mp4`)
    say(`${name}: ffmpeg encodes ${part / 60} min …`)
    const encode = await timed(() =>
      ffmpeg(
        '-t',
        String(part),
        '-i',
        file,
        '-vf',
        `select='${inside}',setpts=N/FRAME_RATE/TB`,
        '-af',
        `aselect='${inside}',asetpts=N/SR/TB`,
        '-c:v',
        'libx264',
        '-preset',
        'veryfast',
        '-c:a',
        'aac',
        encoded,
      ),
    )
    const whole = encode.seconds * (length / part)
    figure({
      input: name,
      minutes,
      cuts: 12,
      seconds: round(ours.seconds),
      timesRealTime: round(length / ours.seconds, 1),
      encodedAnew: round(ours.value.encoded, 1),
      resultSeconds: round(result, 1),
      note: ours.value.note,
      ffmpegEncodeSeconds: round(whole),
      scaledFromMinutes: part / 60,
      fasterThanEncode: round(whole / ours.seconds, 1),
      ffmpegCopySeconds: round(copy.seconds),
      slowerThanCopy: round(ours.seconds / copy.seconds, 1),
      peakMegabytes: Math.round(ours.megabytes),
      outMegabytes: round(statSync(out).size / 1e6, 1),
    })
    for (const path of [out, rough, encoded, list]) rmSync(path)
  }
}
