// What it costs to blur what is behind a speaker, by the size of the camera, against ffmpeg blurring all of the picture.
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { ffmpeg, made, round, timed, watched } from './tools.mjs'

/** Length of each film, s. */
const SECONDS = 60
const edit = {
  ...{ format: 'thaw-edit', version: 3, duration: SECONDS, frameRate: 30 },
  ...{ removed: [], inserts: [], stretches: [], layout: 'inset', fade: 0 },
  sound: { noise: 'keep', loudness: null, truePeak: -1 },
  background: { on: 'screen', how: { kind: 'blur' } },
}

export async function background({ engine, folder, say, figure }) {
  for (const [size, rate] of [
    ['480x360', 24],
    ['640x360', 30],
    ['1280x720', 30],
  ]) {
    const file = await made(
      folder,
      `camera-${size}.mp4`,
      (path) =>
        ffmpeg(
          ...['-f', 'lavfi', '-i', `testsrc2=s=${size}:r=${rate}:d=${SECONDS}`],
          ...['-c:v', 'libx264', '-preset', 'veryfast', '-b:v', '1500k', '-pix_fmt', 'yuv420p', '-g', '60', path],
        ),
      say,
    )
    const out = join(folder, 'background.mp4')
    say(`blurring what is behind the speaker, ${size} …`)
    const ours = await watched(engine, () => engine.render({ file, edit, format: 'mp4' }, out, () => undefined))
    const theirs = await timed(() =>
      ffmpeg('-i', file, '-vf', 'gblur=sigma=12', '-c:v', 'libx264', '-preset', 'veryfast', '-b:v', '1500k', out),
    )
    rmSync(out)
    figure({
      size,
      rate,
      seconds: round(ours.seconds, 1),
      shareOfLength: round(ours.seconds / SECONDS),
      megabytes: round(ours.megabytes, 0),
      ffmpegSeconds: round(theirs.seconds, 1),
    })
  }
}
