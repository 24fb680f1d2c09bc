/** What a course learns of its words: from corrections, and from files. */
import { diffArrays } from 'diff'
import { csvParseRows } from 'd3-dsv'
import { toCsv } from '../results/csv'
import type { CourseWord } from '../schema/words'
import { comparable, tokens } from './text'

/** What was written in the stead of what. */
export interface Correction {
  heard: string
  said: string
}

/** As many words as belong together; longer changes are another sentence, not another spelling. */
const TOGETHER = 4
const MOST_HEARD = 20
const MOST_WORDS = 5000

const bare = (word: string) => word.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, '')

/**
 * The words that a person wrote in the stead of others. What only punctuates otherwise, or begins a sentence with a capital, is
 * none. @param before cue text, @param after cue text
 */
export function correctionsOf(before: string, after: string): Correction[] {
  const was = tokens(before).map(bare)
  const is = tokens(after).map(bare)
  const changes = diffArrays(was, is)
  return changes.flatMap((change, i) => {
    const next = changes[i + 1]
    if (!change.removed || !next?.added || change.value.length > TOGETHER || next.value.length > TOGETHER) return []
    const [heard, said] = [change.value.join(' ').trim(), next.value.join(' ').trim()]
    const begins = change.value.length === 1 && i === 0 && comparable(heard) === comparable(said)
    return heard && said && !begins && heard !== said ? [{ heard, said }] : []
  })
}

/** A list with a word in it, and what it was heard as; one that is there already learns of that. */
export function learnWord(
  words: readonly CourseWord[],
  text: string,
  heard: readonly string[],
  newId: () => string,
): CourseWord[] {
  const own = words.find((w) => w.text === text)
  const all = [...new Set([...(own?.heard ?? []), ...heard].filter((h) => h && h !== text))].slice(-MOST_HEARD)
  if (own) return words.map((w) => (w === own ? { ...w, heard: all } : w))
  return [...words, { id: newId(), text, heard: all }].slice(-MOST_WORDS)
}

const HEADER = ['Word', 'Heard as']
const BETWEEN = '; '

export const writeWordList = (words: readonly CourseWord[]): string =>
  toCsv([HEADER, ...words.map(({ text, heard }) => [text, heard.join(BETWEEN)])])

/**
 * Reads a list from CSV (RFC 4180): a word in the first column, in the second what it was heard as, parted by semicolons.
 * A first row that says so is none of them.
 * @returns the words that can be taken, and why others cannot, with their lines
 * @throws {Error} with a sentence when there is no word in it
 */
export function readWordList(text: string): { words: Omit<CourseWord, 'id'>[]; problems: string[] } {
  const words: Omit<CourseWord, 'id'>[] = []
  const problems: string[] = []
  csvParseRows(text.replace(/^\ufeff/, '')).forEach(([first = '', second = ''], i) => {
    const plain = (field: string) =>
      field
        .replace(/^'(?=[=+\-@])/, '')
        .replace(/\s+/g, ' ')
        .trim()
    const word = plain(first)
    if (!word || (i === 0 && word.toLowerCase() === 'word')) return
    const heard = second.split(';').map(plain).filter(Boolean)
    if (word.length > 100 || heard.some((h) => h.length > 100))
      problems.push(`Line ${i + 1}: this is longer than the 100 letters of a word.`)
    else words.push({ text: word, heard: heard.slice(0, MOST_HEARD) })
  })
  if (words.length === 0) throw new Error('There is no word in this file. One is wanted at the start of each line.')
  return { words: words.slice(0, MOST_WORDS), problems }
}
