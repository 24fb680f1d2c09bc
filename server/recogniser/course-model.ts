/** A course's words and language for pocketsphinx: its dictionary and language model with those of the course in them. */
import { readFile, rename, rm, writeFile } from 'node:fs/promises'
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

/** Models are kept while they are used, and so many longer, as each takes some 30 MB. */
const KEPT = 4
const IN_USE = 10 * 60_000

/** By the file of lines that each was made of: its model, and when it was asked for last, ms. */
const made = new Map<string, { model: Promise<CourseModel>; usedAt: number }>()

/** Makes it of a file with lines of the course's text, beside that file; once, whoever asks meanwhile. */
export function courseModel(vocabulary: string, base: CourseModel): Promise<CourseModel> {
  const known = made.get(vocabulary)
  if (known) {
    known.usedAt = Date.now()
    return known.model
  }
  const model = dropUnused().then(() => make(vocabulary, base))
  made.set(vocabulary, { model, usedAt: Date.now() })
  model.catch(() => made.delete(vocabulary))
  return model
}

async function dropUnused(): Promise<void> {
  const old = [...made].sort(([, a], [, b]) => b.usedAt - a.usedAt).slice(KEPT)
  for (const [vocabulary, { usedAt }] of old) {
    if (Date.now() - usedAt < IN_USE) continue
    made.delete(vocabulary)
    for (const file of [`${vocabulary}.dict`, `${vocabulary}.lm.bin`]) await rm(file, { force: true })
  }
}

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
