/**
 * What the recogniser learns of a course: ten made lectures, heard without and with the course's word list and the titles of
 * its lectures and slides. Errors of words, and how many of the subject's own words are right.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { alignScript } from '#core/captions/align'
import { readTrigramModel, writeTrigramModel } from '#core/captions/language-model'
import { comparable } from '#core/captions/text'
import { proposeSentences } from '#core/captions/sentences'
import { reflow } from '#core/captions/reflow'
import { replaceIn } from '#core/captions/replace'
import { tokens } from '#core/captions/text'
import { newTrack } from '#core/captions/track'
import type { Word } from '#core/schema/captions'
import { readWavHeader, writeWav } from '#core/sound/wav'
import { hear } from '../../server/recogniser/hear'
import { pocketsphinx } from '../../server/recogniser/pocketsphinx'
import { findVocabulary, keepVocabulary } from '../../server/recogniser/vocabulary'
import { lengthy } from '../at-length'
import { lectures, terms, type MadeLecture } from './lectures'
import { RATE, speakAll } from './spoken'

const folder = mkdtempSync(join(tmpdir(), 'thaw-learning-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const words = (text: string) =>
  text
    .split(/[\s-]+/)
    .map(comparable)
    .filter(Boolean)
const own = new Set(terms.flatMap(words))

/** What is heard in a sound. @param samples 16 bit, 16 kHz, mono; the whole of a lecture when left out */
async function heardWords({ title, script }: MadeLecture, vocabulary?: string, samples?: Int16Array): Promise<Word[]> {
  const file = join(folder, 'lecture.wav')
  if (samples) writeFileSync(file, writeWav(new Uint8Array(samples.buffer), RATE))
  else execFileSync('flite', ['-voice', 'slt', '-t', script, '-o', file])
  const header = readWavHeader(new Uint8Array(readFileSync(file)))
  const out: Word[] = []
  const options = { language: 'en', ...(vocabulary && { vocabulary }) }
  for await (const part of hear(file, header, pocketsphinx(), options, new AbortController().signal)) {
    expect(part.missed, title).toBeUndefined()
    out.push(...part.words)
  }
  return out
}
const heard = async (lecture: MadeLecture, vocabulary?: string) =>
  (await heardWords(lecture, vocabulary)).flatMap((w) => words(w.text))
const sentencesOf = ({ script }: MadeLecture) => script.match(/[^.?!]+[.?!]/g)!.map((s) => s.trim())
/** The least that has to be put in, left out or changed (V. Levenshtein, 1966). */
function distance(a: readonly string[], b: readonly string[]): number {
  let row = b.map((_, j) => j + 1)
  a.forEach((word, i) => {
    let [corner, left] = [i, i + 1]
    row = row.map((above, j) => {
      const best = Math.min(above + 1, left + 1, corner + (word === b[j] ? 0 : 1))
      corner = above
      return (left = best)
    })
  })
  return row.at(-1) ?? a.length
}
async function score(some: readonly MadeLecture[], vocabulary?: string) {
  let [errors, all, right, there] = [0, 0, 0, 0]
  for (const lecture of some) {
    const said = words(lecture.script)
    const found = await heard(lecture, vocabulary)
    errors += distance(said, found)
    all += said.length
    const left = [...found]
    for (const term of said.filter((w) => own.has(w))) {
      there++
      const at = left.indexOf(term)
      if (at >= 0) {
        right++
        left.splice(at, 1)
      }
    }
  }
  return { wordErrorRate: errors / all, termsRight: right / there }
}
const course = async () => {
  const lines = [...terms, ...terms, ...lectures.flatMap((l) => [l.title, ...l.slides])]
  return (await findVocabulary(folder, await keepVocabulary(folder, lines)))!
}

describe('a course that the recogniser has learnt', () => {
  test('is the general model as it was, but for what is the course’s', () => {
    const general = new Uint8Array(readFileSync('/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'))
    const model = readTrigramModel(general)
    const again = readTrigramModel(writeTrigramModel(model))
    const isSame = (a: ArrayBufferView, b: ArrayBufferView) =>
      Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(Buffer.from(b.buffer, b.byteOffset, b.byteLength))
    for (const key of ['last', 'before', 'log', 'backoff', 'next'] as const)
      expect(isSame(again.bigrams[key], model.bigrams[key]), key).toBe(true)
    expect(isSame(again.trigrams.packed, model.trigrams.packed)).toBe(true)
    expect(again.words.join(' ') === model.words.join(' ')).toBe(true)
    // What may follow a word adds up to 1.
    const u = model.words.indexOf('glacier')
    let [explicit, ofWords] = [0, 0]
    model.bigrams.before.forEach((before, i) => {
      if (before !== u) return
      explicit += Math.exp(model.quanta.log[model.bigrams.log[i]!]!)
      ofWords += Math.exp(model.unigrams.log[model.bigrams.last[i]!]!)
    })
    expect(explicit + Math.exp(model.unigrams.backoff[u]!) * (1 - ofWords)).toBeCloseTo(1, 2)
  })
  lengthy('has the words of its subject right in a lecture that it has not heard', { timeout: 300_000 }, async () => {
    const { termsRight } = await score(lectures.slice(0, 1), await course())
    expect(termsRight).toBeGreaterThan(0.6)
  })
  lengthy('has twice as many of them right in ten lectures, and no more errors', { timeout: 1_800_000 }, async () => {
    const before = await score(lectures)
    const after = await score(lectures, await course())
    console.log(JSON.stringify({ before, after }))
    expect(after.termsRight).toBeGreaterThanOrEqual(2 * before.termsRight)
    expect(after.wordErrorRate).toBeLessThanOrEqual(before.wordErrorRate)
  })
})

describe('a script of which one sentence in ten is not said, and one in ten is said besides', () => {
  lengthy('lies where its words are said', { timeout: 1_800_000 }, async () => {
    let [near, all] = [0, 0]
    for (const [n, lecture] of lectures.entries()) {
      const script = sentencesOf(lecture)
      const others = sentencesOf(lectures[(n + 1) % lectures.length]!)
      const isSaid = (i: number) => i % 10 !== 4
      const spoken = script.flatMap((s, i) => [
        ...(isSaid(i) ? [{ of: i, text: s }] : []),
        ...(i % 10 === 7 ? [{ of: -1, text: others[i % others.length]! }] : []),
      ])
      const { samples, sentences } = speakAll(spoken.map((s) => s.text))
      const text = script.flatMap((s) => s.split(/\s+/))
      const found = await heardWords(lecture, await course(), samples)
      const { times } = alignScript(text, found)
      for (const [k, { of }] of spoken.entries()) {
        const truth = sentences[k]
        if (of < 0 || !truth) continue
        const first = script.slice(0, of).reduce((sum, s) => sum + s.split(/\s+/).length, 0)
        for (const [j, word] of truth.entries()) {
          const time = times[first + j]
          all++
          if (time && Math.abs(time.from - word.from) <= 0.3) near++
        }
      }
    }
    console.log(JSON.stringify({ words: all, within: near / all }))
    expect(near / all).toBeGreaterThanOrEqual(0.95)
  })
})

describe('talk with pauses', () => {
  lengthy(
    'is parted into sentences where they end, and not where somebody hesitates',
    { timeout: 1_800_000 },
    async () => {
      let [right, proposed, there] = [0, 0, 0]
      let state = 11
      // Park and Miller, CACM 31, 1988.
      const next = () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647
      const silence = (seconds: number) => new Int16Array(Math.round(seconds * RATE))
      for (const lecture of lectures) {
        // Half a second to more than one behind a sentence; in every other one, a hesitation somewhere.
        const parts: Int16Array[] = []
        for (const sentence of sentencesOf(lecture)) {
          const own = sentence.split(/\s+/)
          const at = next() < 0.5 && own.length > 5 ? 2 + Math.floor(next() * (own.length - 4)) : own.length
          parts.push(speakAll([own.slice(0, at).join(' ')]).samples)
          if (at < own.length) parts.push(silence(0.1 + 0.4 * next()), speakAll([own.slice(at).join(' ')]).samples)
          parts.push(silence(0.2 + 0.8 * next()))
        }
        const samples = new Int16Array(parts.reduce((sum, p) => sum + p.length, 0))
        let begins = 0
        for (const part of parts) {
          samples.set(part, begins)
          begins += part.length
        }
        const script = lecture.script.split(/\s+/)
        const found = await heardWords(lecture, await course(), samples)
        let id = 0
        const track = newTrack({ cues: reflow(found, () => `c${id++}`) }, 'recogniser')
        const texts = replaceIn(track, proposeSentences(track, terms)).cues.flatMap((c) => tokens(c.text))
        const { times } = alignScript(script, found)
        // The heard words with which sentences of the script end.
        const ends = new Set<number>()
        for (const [i, text] of script.entries()) {
          if (!/[.?!]$/.test(text)) continue
          there++
          ends.add(found.findIndex((w) => Math.abs(w.to - (times[i]?.to ?? -1)) < 0.05))
        }
        for (const [i, text] of texts.entries()) {
          if (!text.endsWith('.')) continue
          proposed++
          if (ends.has(i)) right++
        }
      }
      console.log(JSON.stringify({ precision: right / proposed, recall: right / there, sentences: there }))
      expect(right / proposed).toBeGreaterThan(0.7)
    },
  )
})
