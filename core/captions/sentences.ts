/**
 * Capitals and full stops for words that a recogniser gave without: where somebody pauses, a sentence may end, and a
 * course's word list says what is written large. Nothing of it is certain, so that a person takes it or leaves it.
 */
import type { CaptionTrack, Cue, Word } from '../schema/captions'
import { replaceWord, type Replacement } from './replace'
import { comparable, plainText, tokens } from './text'

/** A pause of this many s ends a sentence where nothing speaks against it; a shorter one where the next word begins one. */
const LONG = 0.45
const SHORT = 0.22
/** Sentences of fewer words are rare in speech that goes on. */
const LEAST_WORDS = 3

/** English words behind which no sentence ends. */
const leadOn = new Set(
  'a an the of to for with from by at into onto upon as and or but nor if because although while whereas which who whose whom when where than that my your his her its our their this these those is are was were be been am has have had do does did can could will would shall should may might must not very more most some any every each no'.split(
    ' ',
  ),
)
/** English words with which sentences often begin. */
const beginners = new Set(
  "so now then and but this that these those the we i you he she they it if when there here in what let's how why who let first next finally however today let's as at for after before because while on all some most one".split(
    ' ',
  ),
)
/** English words with which none begins behind a short pause, and few behind a long one. */
const goesOn = new Set('of than which whose whom or nor is are was were be been has have had'.split(' '))
/** English words that are always written large. */
const always: ReadonlyMap<string, string> = new Map(
  ['I', "I'm", "I've", "I'll", "I'd"].map((w) => [w.toLowerCase(), w]),
)

interface Said {
  cue: Cue
  /** The how manieth word of the cue. */
  index: number
  /** As it is written now. */
  text: string
  word: Word
}

/** Words that were recognised and that nobody has gone through, in runs without others between them. */
function runsOf(cues: readonly Cue[]): Said[][] {
  const runs: Said[][] = [[]]
  for (const cue of cues) {
    const written = tokens(cue.text)
    if (cue.checked || !cue.words || cue.words.length !== written.length) {
      runs.push([])
      continue
    }
    for (const [index, word] of cue.words.entries()) runs.at(-1)?.push({ cue, index, text: written[index] ?? '', word })
  }
  return runs.filter((run) => run.length > 0)
}

/** Whether a sentence ends behind the first of two words. @param count words of it so far @param isEnglish */
function endsBehind(word: Said, next: Said, count: number, isEnglish: boolean): boolean {
  const pause = next.word.from - word.word.to
  if (!isEnglish) return pause >= 2 * LONG && count >= LEAST_WORDS
  const [last, first] = [comparable(word.text), comparable(next.text)]
  if (count < LEAST_WORDS || leadOn.has(last) || goesOn.has(first)) return pause >= 3 * LONG
  return pause >= (beginners.has(first) ? SHORT : LONG)
}

const capital = (text: string) => text.replace(/\p{L}/u, (letter) => letter.toUpperCase())
const isSmall = (text: string) => text === text.toLowerCase()
const endsSentence = (text: string) => /[.!?…]["”’)\]]*$/.test(text)
const isSound = (text: string) => /^[[(]/.test(text)

/** Writes what the word list writes large as it does, wherever its words stand in a run. */
function writeTerms(run: readonly Said[], texts: string[], terms: readonly string[]): void {
  const byFirst = new Map<string, string[][]>()
  for (const term of terms) {
    const words = term.split(/\s+/).filter(Boolean)
    const first = comparable(words[0] ?? '')
    if (first && !words.every(isSmall)) byFirst.set(first, [...(byFirst.get(first) ?? []), words])
  }
  for (const [i, said] of run.entries()) {
    for (const words of byFirst.get(comparable(said.text)) ?? []) {
      const here = run.slice(i, i + words.length)
      const isIt =
        here.length === words.length && here.every((s, k) => comparable(s.text) === comparable(words[k] ?? ''))
      if (!isIt) continue
      words.forEach((written, k) => {
        const now = texts[i + k] ?? ''
        // What stands around its letters stays.
        texts[i + k] = isSmall(now) ? now.toLowerCase().replace(comparable(written), () => written) : now
      })
    }
  }
}

/**
 * What capitals and full stops would make of cues.
 * @param terms the course's word list, as it is written
 */
export function proposeSentences(
  track: Pick<CaptionTrack, 'cues' | 'language'>,
  terms: readonly string[],
): Replacement[] {
  const isEnglish = /^en\b/i.test(track.language)
  const changed = new Map<string, { cue: Cue; by: Map<number, string> }>()
  const runs = runsOf(track.cues)
  for (const run of runs) {
    const texts = run.map((s) => s.text)
    writeTerms(run, texts, terms)
    let count = 0
    let begins = true
    for (const [i, said] of run.entries()) {
      let text = texts[i] ?? ''
      if (isSound(text)) continue
      count++
      const own = isEnglish ? always.get(text.toLowerCase().replace(/[,;:.!?…]+$/, '')) : undefined
      if (own) text = own + text.slice(own.length)
      if (begins && isSmall(text)) text = capital(text)
      const next = run[i + 1]
      begins = endsSentence(text)
      // The end of a run is not known to be one of a sentence, but for the end of everything that is said.
      const isLast = !next && run === runs.at(-1) && said.cue === track.cues.at(-1)
      if (!begins && !/[,;:–—]$/.test(text) && (isLast || (next && endsBehind(said, next, count, isEnglish)))) {
        text += '.'
        begins = true
      }
      if (begins) count = 0
      if (text === said.text) continue
      const of = changed.get(said.cue.id) ?? { cue: said.cue, by: new Map<number, string>() }
      changed.set(said.cue.id, of)
      of.by.set(said.index, text)
    }
  }
  return [...changed.values()].map(({ cue, by }) => {
    let text = cue.text
    for (const [index, word] of by) text = replaceWord(text, index, word)
    return {
      ...{ cueId: cue.id, from: cue.from, before: plainText(cue.text), after: plainText(text) },
      ...{ count: by.size, text },
    }
  })
}
