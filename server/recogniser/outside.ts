/**
 * A college's own recogniser: a program, or a service over HTTP. Either is given a piece as a WAVE file and answers with a
 * line of JSON for each word, `{"text", "from", "to", "confidence", "alternatives"}`; see docs/formats.md, “Speech”.
 */
import { access, constants, readFile } from 'node:fs/promises'
import { Word } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
import { limitedText, TooLarge } from '../utils/outgoing'
import type { Recogniser } from './recogniser'
import { runProgram } from './run'

/** What it answered, as words. @throws {Error} with a sentence that names the line */
export function readWords(answer: string): Word[] {
  const lines = answer.split('\n')
  const words = lines.flatMap((line, i) => {
    if (!line.trim()) return []
    try {
      const word = parseAs(Word, JSON.parse(line), 'word of the recogniser')
      if (word.to < word.from) throw new Error('It ends before it begins.')
      return [word]
    } catch (error) {
      throw new Error(`Line ${i + 1} of what the recogniser answered cannot be read: ${(error as Error).message}`)
    }
  })
  return words.sort((a, b) => a.from - b.from)
}

/** @param languages BCP 47; all when empty */
const knowing = (languages: readonly string[]) => (language: string) =>
  languages.length === 0 ||
  languages.some((known) => language.toLowerCase().split('-')[0] === known.toLowerCase().split('-')[0])

/** Called as `program --language TAG [--vocabulary FILE] FILE`. */
export const program = (path: string, languages: readonly string[]): Recogniser => ({
  async problem() {
    try {
      await access(path, constants.X_OK)
      return ''
    } catch {
      return `The speech recogniser that this server is set to use, ${path}, is no program that can be run.`
    }
  },
  knows: knowing(languages),
  async read({ file, language, vocabulary }, signal) {
    const known = vocabulary ? ['--vocabulary', vocabulary] : []
    return readWords(await runProgram(path, ['--language', language, ...known, file], signal))
  },
})

/** Longest that a service may take for a piece, ms, and most that it may say of it, bytes. */
const [PATIENCE, MOST] = [300_000, 4 << 20]

/** A form is posted: the piece (`sound`), its `language`, and the course's `vocabulary`, a line of text each. */
export const service = (address: string, languages: readonly string[]): Recogniser => ({
  problem: async () => '',
  knows: knowing(languages),
  async read({ file, language, vocabulary }, signal) {
    const url = new URL(address)
    const form = new FormData()
    form.set('language', language)
    form.set('sound', new Blob([new Uint8Array(await readFile(file))], { type: 'audio/wav' }), 'piece.wav')
    if (vocabulary) form.set('vocabulary', new Blob([new Uint8Array(await readFile(vocabulary))]), 'vocabulary.txt')
    let response: Response
    try {
      response = await fetch(url, {
        method: 'POST',
        body: form,
        headers: { accept: 'application/x-ndjson' },
        signal: AbortSignal.any([signal, AbortSignal.timeout(PATIENCE)]),
      })
      if (response.ok) return readWords(await limitedText(response, MOST))
    } catch (error) {
      if (error instanceof TooLarge || (error instanceof Error && error.message.startsWith('Line '))) throw error
      throw new Error(`The speech recogniser at ${url.origin} cannot be reached.`, { cause: error })
    }
    throw new Error(`The speech recogniser at ${url.origin} answered ${response.status}.`)
  },
})
