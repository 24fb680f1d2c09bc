/** What the engine measures agrees with what another program measures, and with what is known of made recordings. */
import { execFileSync } from 'node:child_process'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { agreement, makeDeck } from '../../scripts/bench/deck.mjs'
import { loudnessByFfmpeg, silencesByFfmpeg } from '../../scripts/bench/judge.mjs'
import { openEngine } from '../../scripts/engine.mjs'
import { lengthy } from '../at-length'
import { ffmpeg, inFolder, removeFilms } from './films'

let engine: Awaited<ReturnType<typeof openEngine>>
beforeAll(async () => void (engine = await openEngine({ quiet: true })))
afterAll(async () => {
  await engine.close()
  removeFilms()
})

interface Found {
  sound: {
    integratedLufs: number
    rangeLu: number
    truePeakDbtp: number
    noiseFloorDbfs: number
    silences: { from: number; to: number }[]
    clipping: { from: number }[]
    proposedCuts: { reason: string; from: number; to: number }[]
  }
  slides: { at: number }[] | null
}
const settings = { slides: false, silence: { threshold: -45, shortest: 0.5 } }

/** Speech with pauses before, in the middle and behind, over a quiet room. */
function speech(): string {
  const [first, second, out] = ['first.wav', 'second.wav', 'speech.m4a'].map(inFolder) as [string, string, string]
  execFileSync('flite', [
    '-voice',
    'slt',
    '-t',
    'Good morning. Today we look at how glaciers move, and what becomes of the water below them.',
    '-o',
    first,
  ])
  execFileSync('flite', [
    '-voice',
    'slt',
    '-t',
    'Ablation is the loss of ice and snow. It happens mostly in summer, and mostly lower down.',
    '-o',
    second,
  ])
  ffmpeg(
    '-i',
    first,
    '-i',
    second,
    '-f',
    'lavfi',
    '-i',
    'anoisesrc=c=pink:a=0.0008:r=48000:seed=2',
    '-filter_complex',
    '[0:a]aresample=48000,adelay=2500:all=1,apad=pad_dur=5[a];[1:a]aresample=48000,apad=pad_dur=4[b];[a][b]concat=n=2:v=0:a=1[s];[s][2:a]amix=inputs=2:duration=first:normalize=0[o]',
    '-map',
    '[o]',
    '-ac',
    '2',
    '-ar',
    '48000',
    '-c:a',
    'aac',
    '-b:a',
    '128k',
    out,
  )
  return out
}

test('loudness, true peak and silences are those that ffmpeg measures', async () => {
  const file = speech()
  const { sound } = (await engine.analyse(file, settings, () => undefined)) as Found
  const judged = loudnessByFfmpeg(file)
  expect(Math.abs(sound.integratedLufs - judged.integrated)).toBeLessThan(0.1)
  expect(Math.abs(sound.truePeakDbtp - judged.truePeak)).toBeLessThan(0.2)
  expect(Math.abs(sound.rangeLu - judged.range)).toBeLessThan(1)
  const silences = silencesByFfmpeg(file, -45, 0.5, Infinity)
  expect(silences.length).toBeGreaterThanOrEqual(3)
  expect(sound.silences).toHaveLength(silences.length)
  for (const [i, { from, to }] of silences.entries()) {
    expect(Math.abs(sound.silences[i]!.from - from)).toBeLessThan(0.05)
    if (Number.isFinite(to)) expect(Math.abs(sound.silences[i]!.to - to)).toBeLessThan(0.05)
  }
  expect(sound.proposedCuts.map((c) => c.reason)).toEqual(['start', 'pause', 'end'])
  expect(sound.clipping).toEqual([])
  expect(sound.noiseFloorDbfs).toBeLessThan(-60)
})

test('clipping is found where it is', async () => {
  const file = inFolder('clipped.wav')
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    "aevalsrc='if(between(t,2,2.5),3,0.3)*sin(2*PI*300*t)':s=48000:d=5",
    '-c:a',
    'pcm_s16le',
    file,
  )
  const { sound } = (await engine.analyse(file, settings, () => undefined)) as Found
  expect(sound.clipping).toHaveLength(1)
  expect(sound.clipping[0]!.from).toBeCloseTo(2, 1)
})

lengthy('slides are found in spite of a pointer, an inset, builds, fades and a clip', async () => {
  const file = inFolder('deck.mp4')
  const truth = makeDeck(file, { slides: 7 })
  const told: number[] = []
  const { slides } = (await engine.analyse(
    file,
    { ...settings, slides: true },
    (share: number) => void told.push(share),
  )) as Found
  expect(
    agreement(
      truth,
      slides!.map((s) => s.at),
    ),
  ).toMatchObject({ recall: 1, precision: 1 })
  expect(told.every((share, i) => share >= (told[i - 1] ?? 0) && share <= 1)).toBe(true)
})
