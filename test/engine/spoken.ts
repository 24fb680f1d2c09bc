/** Text as a synthetic voice says it, with the true times of its words. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readWavHeader } from '#core/sound/wav'

/** Of flite's voice, Hz. */
export const RATE = 16_000
const folder = mkdtempSync(join(tmpdir(), 'thaw-spoken-'))
const flite = (...args: string[]) => execFileSync('flite', ['-voice', 'slt', ...args], { encoding: 'utf8' })

export interface SpokenWord {
  text: string
  /** s from the beginning of the sound */
  from: number
  to: number
}
export interface Spoken {
  /** 16 bit, mono. */
  samples: Int16Array
  /** Null where the voice says something else than the words one by one, so that it is not known. */
  words: SpokenWord[] | null
}

const known = new Map<string, Spoken>()
const phones = new Map<string, number>()
/** How many sounds a word has. */
function soundsOf(word: string): number {
  const count =
    phones.get(word) ??
    flite('-ps', '-t', word, '-o', 'none')
      .trim()
      .split(/\s+/)
      .filter((p) => p !== 'pau').length
  phones.set(word, count)
  return count
}

/** Says a sentence. */
export function speak(sentence: string): Spoken {
  const before = known.get(sentence)
  if (before) return before
  const file = join(folder, `${known.size}.wav`)
  const segments = flite('-psdur', '-t', sentence, '-o', file)
    .trim()
    .split(/\s+/)
    .map((s) => ({ phone: s.split(':')[0] ?? '', to: Number(s.split(':')[1]) }))
  const bytes = readFileSync(file)
  const { dataOffset } = readWavHeader(bytes)
  const samples = new Int16Array(bytes.buffer.slice(bytes.byteOffset + dataOffset, bytes.byteOffset + bytes.length))
  const timed = segments.map((s, i) => ({ ...s, from: segments[i - 1]?.to ?? 0 })).filter((s) => s.phone !== 'pau')
  const tokens = sentence.split(/\s+/).filter(Boolean)
  const counts = tokens.map(soundsOf)
  let words: SpokenWord[] | null = null
  if (counts.reduce((sum, n) => sum + n, 0) === timed.length) {
    let at = 0
    words = tokens.map((text, i) => {
      const own = timed.slice(at, (at += counts[i] ?? 0))
      return { text, from: own[0]?.from ?? 0, to: own.at(-1)?.to ?? 0 }
    })
  }
  const spoken = { samples, words }
  known.set(sentence, spoken)
  return spoken
}

/** Says sentences one after another. */
export function speakAll(sentences: readonly string[]): { samples: Int16Array; sentences: Spoken['words'][] } {
  const parts = sentences.map(speak)
  const samples = new Int16Array(parts.reduce((sum, p) => sum + p.samples.length, 0))
  let at = 0
  const timed = parts.map(({ samples: own, words }) => {
    samples.set(own, at)
    const begins = at / RATE
    at += own.length
    return words?.map((w) => ({ ...w, from: w.from + begins, to: w.to + begins })) ?? null
  })
  return { samples, sentences: timed }
}
