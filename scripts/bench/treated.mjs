// Noise taken out of speech and one loudness, against ffmpeg's own ways of doing both; neither does the same, but both have all
// of the sound to go through.
import { join } from 'node:path'
import { rmSync } from 'node:fs'
import { editOf, ffmpeg, made, round, timed, watched } from './tools.mjs'

export async function treated({ engine, minutes, folder, say, figure }) {
  // Tones that come and go as syllables do, over the noise of a fan.
  const one = await made(
    folder,
    'spoken-1.m4a',
    (path) =>
      ffmpeg(
        ...['-f', 'lavfi', '-i'],
        "aevalsrc='0.25*pow(sin(2*PI*2.1*t),2)*gt(mod(t,7),0.9)*(sin(2*PI*(180+40*sin(3*t))*t)+0.3*sin(2*PI*2300*t))+0.01*(random(0)-0.5)':s=48000:d=60",
        ...['-c:a', 'aac', '-b:a', '96k', path],
      ),
    say,
  )
  const file = await made(
    folder,
    `spoken-${minutes}.m4a`,
    (path) => ffmpeg('-stream_loop', String(minutes - 1), '-i', one, '-c', 'copy', path),
    say,
  )
  const out = join(folder, 'treated.m4a')
  const edit = editOf([], [{ do: 'sound', treatment: { noise: 'reduce', loudness: -16, truePeak: -1 } }])
  say(`treating ${minutes} min of sound …`)
  let first = 0
  const began = performance.now()
  const ours = await watched(engine, () =>
    engine.render({ file, edit, format: 'm4a' }, out, (share) => {
      if (share > 0) first ||= performance.now() - began
    }),
  )
  const theirs = await timed(() =>
    ffmpeg('-i', file, '-af', 'afftdn,loudnorm=I=-16:TP=-1', '-c:a', 'aac', '-b:a', '64k', '-y', out),
  )
  rmSync(out, { force: true })
  figure({
    minutes,
    seconds: round(ours.seconds),
    timesRealTime: round((minutes * 60) / ours.seconds, 1),
    firstProgressSeconds: round(first / 1000),
    peakMegabytes: Math.round(ours.megabytes),
    ffmpegSeconds: round(theirs.seconds),
  })
}
