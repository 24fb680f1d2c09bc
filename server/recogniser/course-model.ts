/** A course's words and language for pocketsphinx: its dictionary and language model with those of the course in them. */
import { readFile, rename, writeFile } from 'node:fs/promises'
import { mixIn, readTrigramModel, writeTrigramModel } from '#core/captions/language-model'
import { canPronounce, pronounce } from './pronounce'

export interface CourseModel {
  lm: string
  dict: string
}

/** A line of text as the recogniser writes words. */
const wordsOf = (line: string): string[] =>
  line
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z' ]/g, (c) => (/\p{M}/u.test(c) ? '' : ' '))
    .split(/\s+/)
    .map((word) => word.replace(/^'+|'+$/g, ''))
    .filter(Boolean)

/** Lets everything else go on for a moment. */
const breathe = () => new Promise((resolve) => setImmediate(resolve))

async function put(path: string, data: string | Uint8Array): Promise<string> {
  await writeFile(`${path}.part`, data)
  await rename(`${path}.part`, path)
  return path
}

/** By the file of lines that each was made of, and its model. */
const made = new Map<string, Promise<CourseModel>>()

/** Makes it of a file with lines of the course's text, beside that file; once, whoever asks meanwhile. */
export function courseModel(vocabulary: string, base: CourseModel): Promise<CourseModel> {
  const known = made.get(vocabulary)
  if (known) return known
  const making = make(vocabulary, base)
  made.set(vocabulary, making)
  making.catch(() => made.delete(vocabulary))
  return making
}

/** Forgets the model of a vocabulary whose files are gone. */
export const forgetModel = (vocabulary: string): boolean => made.delete(vocabulary)

async function make(vocabulary: string, base: CourseModel): Promise<CourseModel> {
  const signal = AbortSignal.timeout(120_000)
  const lines = (await readFile(vocabulary, 'utf8')).split('\n').map(wordsOf)
  const dictionary = (await readFile(base.dict, 'latin1')).trimEnd()
  const known = new Set(dictionary.split('\n').map((line) => line.slice(0, line.indexOf(' '))))
  const added: string[] = []
  const speaks = await canPronounce()
  for (const word of new Set(lines.flat())) {
    if (known.has(word)) continue
    const sounds = speaks ? await pronounce(word, signal) : ''
    if (!sounds) continue
    known.add(word)
    added.push(`${word} ${sounds}`)
  }
  const dict = await put(`${vocabulary}.dict`, Buffer.from(`${[dictionary, ...added].join('\n')}\n`, 'latin1'))
  const model = readTrigramModel(new Uint8Array(await readFile(base.lm)))
  await breathe()
  // What cannot be said is not listened for.
  const mixed = mixIn(
    model,
    lines.map((line) => line.filter((word) => known.has(word))).filter((line) => line.length > 0),
  )
  await breathe()
  return { dict, lm: await put(`${vocabulary}.lm.bin`, writeTrigramModel(mixed)) }
}
