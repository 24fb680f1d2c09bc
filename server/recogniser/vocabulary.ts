/** What courses say of their words, as files for recognisers; the latest are kept. */
import { createHash } from 'node:crypto'
import { mkdir, readdir, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'

/** Kept at most: lines of text, which take next to nothing. */
const KEPT = 200

const folderOf = (speech: string) => join(speech, 'vocabularies')
const fileOf = (speech: string, id: string) => join(folderOf(speech), `${id}.txt`)

/** @param lines of text that is the course's own: terms, titles; @returns what it is called from then on */
export async function keepVocabulary(speech: string, lines: readonly string[]): Promise<string> {
  const text = lines
    .map((line) => line.replace(/\s+/g, ' ').trim())
    .filter(Boolean)
    .join('\n')
  const id = createHash('sha256').update(text).digest('hex').slice(0, 32)
  await mkdir(folderOf(speech), { recursive: true })
  if (!(await findVocabulary(speech, id))) await writeFile(fileOf(speech, id), text)
  await dropOld(speech)
  return id
}

/** The file of a vocabulary, or null when it is not kept any more. */
export async function findVocabulary(speech: string, id: string): Promise<string | null> {
  if (!/^[0-9a-f]{32}$/.test(id)) return null
  const file = fileOf(speech, id)
  try {
    const now = new Date()
    await utimes(file, now, now)
    return file
  } catch {
    return null
  }
}

async function dropOld(speech: string): Promise<void> {
  const names = (await readdir(folderOf(speech))).filter((name) => name.endsWith('.txt'))
  const files = await Promise.all(
    names.map(async (name) => {
      const path = join(folderOf(speech), name)
      return { path, at: (await stat(path)).mtimeMs }
    }),
  )
  for (const { path } of files.sort((a, b) => b.at - a.at).slice(KEPT)) await rm(path, { force: true })
}
