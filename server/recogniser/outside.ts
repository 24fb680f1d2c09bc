/**
 * A college's own recogniser: a program, or a service over HTTP. Either is given a piece as a WAVE file and answers with a
 * line of JSON for each word, `{"text", "from", "to", "confidence", "alternatives"}`; see docs/formats.md, “Speech”.
 */
import { access, constants, readFile } from 'node:fs/promises'
import { Word } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
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

/** Called as `program --language TAG FILE`. */
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
  read: async ({ file, language }, signal) => readWords(await runProgram(path, ['--language', language, file], signal)),
})

/** Longest that a service may take for a piece, ms. */
const PATIENCE = 300_000

/** The piece is posted as it is, the language in the query. */
export const service = (address: string, languages: readonly string[]): Recogniser => ({
  problem: async () => '',
  knows: knowing(languages),
  async read({ file, language }, signal) {
    const url = new URL(address)
    url.searchParams.set('language', language)
    let response: Response
    try {
      response = await fetch(url, {
        method: 'POST',
        body: new Uint8Array(await readFile(file)),
        headers: { 'content-type': 'audio/wav', accept: 'application/x-ndjson' },
        signal: AbortSignal.any([signal, AbortSignal.timeout(PATIENCE)]),
      })
      if (response.ok) return readWords(await response.text())
    } catch (error) {
      if (error instanceof Error && error.message.startsWith('Line ')) throw error
      throw new Error(`The speech recogniser at ${url.origin} cannot be reached.`, { cause: error })
    }
    throw new Error(`The speech recogniser at ${url.origin} answered ${response.status}.`)
  },
})
