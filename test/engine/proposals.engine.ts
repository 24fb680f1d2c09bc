/**
 * What is proposed to be taken out of forty made talks, against what is known of them: how much of what is proposed is
 * right, and how much of what could be is proposed. By the sound each time; by the recogniser’s words at length, as those
 * take some ten minutes.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { proposeWordCuts } from '#core/captions/propose-word-cuts'
import { reflow } from '#core/captions/reflow'
import { spokenWords } from '#core/captions/spoken'
import type { Word } from '#core/schema/captions'
import { soundAnalyser } from '#core/sound/analysis'
import { usualSilence } from '#core/sound/silence'
import { recorded } from '#core/time/units'
import { readWavHeader } from '#core/sound/wav'
import { hear } from '../../server/recogniser/hear'
import { pocketsphinx } from '../../server/recogniser/pocketsphinx'
import { lengthy } from '../at-length'
import { makeTalk, RATE, toWav, type Talk, type Truth } from './talks'

const folder = mkdtempSync(join(tmpdir(), 'thaw-proposals-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const talks = Array.from({ length: 40 }, (_, i) => makeTalk(i + 1))
const bySound = ['start', 'end', 'pause', 'false-start', 'cough', 'bump']

function heard({ samples }: Talk): Truth[] {
  const analyser = soundAnalyser(RATE, 1, usualSilence)
  for (let i = 0; i < samples.length; i += 4800) analyser.push([samples.subarray(i, i + 4800)])
  return analyser.finish().proposals
}
async function read({ samples }: Talk, i: number): Promise<Truth[]> {
  const file = join(folder, `${i}.wav`)
  const wav = toWav(samples)
  writeFileSync(file, wav)
  const words: Word[] = []
  const signal = new AbortController().signal
  for await (const part of hear(file, readWavHeader(wav), pocketsphinx(), { language: 'en' }, signal))
    words.push(...part.words)
  let n = 0
  return proposeWordCuts(spokenWords(reflow(words, () => `c${n++}`)), recorded(samples.length / RATE))
}

const shared = (a: { from: number; to: number }, b: { from: number; to: number }) =>
  Math.max(0, Math.min(a.to, b.to) - Math.max(a.from, b.from))
/** Right is what takes most of it out, and at most 0.15 s of a word that is to stay. */
const isRight = (cut: Truth, truth: Truth, { words }: Talk) =>
  shared(cut, truth) > 0.5 * (truth.to - truth.from) && words.every((w) => shared(cut, w) < 0.15)

interface Score {
  proposed: number
  right: number
  there: number
  found: number
}
function score(found: readonly Truth[][], isMeant: (reason: string) => boolean) {
  const all: Record<string, Score> = {}
  const of = (reason: string) => (all[reason] ??= { proposed: 0, right: 0, there: 0, found: 0 })
  talks.forEach((talk, i) => {
    const truths = talk.truth.filter((t) => isMeant(t.reason))
    for (const cut of found[i] ?? []) {
      const own = of(cut.reason)
      own.proposed++
      if (talk.truth.some((t) => isRight(cut, t, talk))) own.right++
    }
    for (const truth of truths) {
      const own = of(truth.reason)
      own.there++
      if (found[i]?.some((cut) => isRight(cut, truth, talk))) own.found++
    }
  })
  const sum = (key: keyof Score) => Object.values(all).reduce((s, x) => s + x[key], 0)
  console.log(JSON.stringify(all))
  return { precision: sum('right') / sum('proposed'), recall: sum('found') / sum('there') }
}

describe('of what could be taken out of forty made talks', () => {
  test('what can be heard is found, and little else', () => {
    const { precision, recall } = score(talks.map(heard), (reason) => bySound.includes(reason))
    console.log(`by the sound: precision ${precision.toFixed(3)}, recall ${recall.toFixed(3)}`)
    expect(precision).toBeGreaterThanOrEqual(0.9)
    expect(recall).toBeGreaterThanOrEqual(0.8)
  })
  lengthy(
    'what is said in vain is found by the recogniser’s words, and little else',
    { timeout: 1_800_000 },
    async () => {
      const found: Truth[][] = []
      for (const [i, talk] of talks.entries()) found.push([...heard(talk), ...(await read(talk, i))])
      const { precision, recall } = score(found, () => true)
      console.log(`all: precision ${precision.toFixed(3)}, recall ${recall.toFixed(3)}`)
      expect(precision).toBeGreaterThanOrEqual(0.9)
      expect(recall).toBeGreaterThanOrEqual(0.8)
    },
  )
})
