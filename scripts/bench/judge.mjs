// ffmpeg's own measurements of a file's sound, to compare the engine's with.
import { ffmpegSays } from './tools.mjs'

/** Integrated loudness (LUFS), range (LU) and true peak (dBTP) by ffmpeg's ebur128. */
export function loudnessByFfmpeg(file) {
  const text = ffmpegSays(
    '-nostats',
    '-i',
    file,
    '-map',
    '0:a:0',
    '-af',
    'ebur128=peak=true:framelog=verbose',
    '-f',
    'null',
    '-',
  )
  const summary = text.slice(text.lastIndexOf('Summary:'))
  const read = (pattern) => Number(pattern.exec(summary)?.[1])
  return {
    integrated: read(/I:\s+(-?[\d.]+) LUFS/),
    range: read(/LRA:\s+(-?[\d.]+) LU/),
    truePeak: read(/Peak:\s+(-?[\d.]+) dBFS/),
  }
}

/** Silences by ffmpeg's silencedetect, s; one that runs to the end has no end there. */
export function silencesByFfmpeg(file, threshold, shortest, length) {
  const text = ffmpegSays(
    '-nostats',
    '-i',
    file,
    '-map',
    '0:a:0',
    '-af',
    `silencedetect=noise=${threshold}dB:d=${shortest}`,
    '-f',
    'null',
    '-',
  )
  const starts = [...text.matchAll(/silence_start: (-?[\d.]+)/g)].map((m) => Math.max(0, Number(m[1])))
  const ends = [...text.matchAll(/silence_end: ([\d.]+)/g)].map((m) => Number(m[1]))
  return starts.map((from, i) => ({ from, to: ends[i] ?? length }))
}
