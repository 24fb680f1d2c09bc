// Analysis: peaks, loudness and silences in one pass over an hour, against ffmpeg's measurements; slides of a made
// deck.
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { agreement, makeDeck } from './deck.mjs'
import { loudnessByFfmpeg, silencesByFfmpeg } from './judge.mjs'
import { ffmpeg, made, round, timed, watched } from './tools.mjs'

export async function analysis({ engine, minutes, folder, say, figure }) {
  // Tones that come and go between -50 and -3 dBFS, with pauses: a programme with a range and true peaks of its own.
  const one = await made(
    folder,
    'sound-1.m4a',
    (path) =>
      ffmpeg(
        '-f',
        'lavfi',
        '-i',
        "aevalsrc='(0.03+0.5*pow(sin(2*PI*t/23),2))*gt(mod(t,10),1.3)*(sin(2*PI*(220+30*sin(t))*t)+0.4*sin(2*PI*3100*t))|(0.02+0.4*pow(sin(2*PI*t/17),2))*gt(mod(t,10),1.3)*sin(2*PI*310*t)':s=48000:d=60",
        '-c:a',
        'aac',
        '-b:a',
        '128k',
        path,
      ),
    say,
  )
  const file = await made(
    folder,
    `sound-${minutes}.m4a`,
    (path) => ffmpeg('-stream_loop', String(minutes - 1), '-i', one, '-c', 'copy', path),
    say,
  )
  say(`analysing ${minutes} min of sound …`)
  const ours = await watched(engine, () =>
    engine.analyse(file, { slides: false, silence: { threshold: -45, shortest: 0.5 } }, () => undefined),
  )
  const { sound, probe } = ours.value
  const theirs = await timed(() => loudnessByFfmpeg(file))
  const silences = silencesByFfmpeg(file, -45, 0.5, probe.duration)
  const off =
    sound.silences.length === silences.length
      ? Math.max(
          0,
          ...sound.silences.flatMap((s, i) => [Math.abs(s.from - silences[i].from), Math.abs(s.to - silences[i].to)]),
        )
      : null
  figure({
    input: 'sound',
    minutes,
    seconds: round(ours.seconds),
    timesRealTime: round((minutes * 60) / ours.seconds, 1),
    peakMegabytes: Math.round(ours.megabytes),
    ffmpegLoudnessSeconds: round(theirs.seconds),
    integratedOffLu: round(Math.abs(sound.integratedLufs - theirs.value.integrated)),
    truePeakOffDb: round(Math.abs(sound.truePeakDbtp - theirs.value.truePeak)),
    silences: sound.silences.length,
    silencesByFfmpeg: silences.length,
    silencesOffSeconds: off === null ? null : round(off, 4),
  })

  const truthFile = `${folder}/deck-40.json`
  const deck = await made(
    folder,
    'deck-40.mp4',
    (path) => writeFileSync(truthFile, JSON.stringify(makeDeck(path, { slides: 40 }))),
    say,
  )
  if (!existsSync(truthFile)) throw new Error(`${truthFile} is missing; remove deck-40.mp4 and try again.`)
  say('finding slides …')
  const found = await timed(() =>
    engine.analyse(deck, { slides: true, silence: { threshold: -45, shortest: 0.5 } }, () => undefined),
  )
  const { recall, precision, worst } = agreement(
    JSON.parse(readFileSync(truthFile, 'utf8')),
    found.value.slides.map((s) => s.at),
  )
  figure({
    input: 'deck of 40 slides',
    seconds: round(found.seconds),
    timesRealTime: round(found.value.probe.duration / found.seconds, 1),
    recall: round(recall, 3),
    precision: round(precision, 3),
    worstSeconds: round(worst, 2),
  })
}
