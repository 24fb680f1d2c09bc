/**
 * Word lattices: everything that a recogniser thought might have been said, as nodes in time and links between them
 * with their posterior probability. Read from HTK's Standard Lattice Format (The HTK Book 3.4, chapter 20).
 */
import type { Word } from '../schema/captions'

/** A word that may have been said from `from` to `to` (s), and how likely that is (0–1). An empty text is silence. */
export interface LatticeWord {
  text: string
  from: number
  to: number
  posterior: number
}

/** Alternatives less likely than this are not worth a person's look; and the most that are kept of a word. */
const LEAST = 0.02
const MOST = 5

const field = (line: string, name: string) => new RegExp(`(?:^|\\s)${name}=(\\S+)`).exec(line)?.[1]

/**
 * Words stand at the nodes (`W=`), as in lattices whose links say where from and to (`S=`, `E=`) and how likely (`p=`).
 * @throws {Error} with a sentence for what is no such lattice
 */
export function readLattice(text: string): LatticeWord[] {
  const nodes = new Map<string, { text: string; at: number }>()
  const words: LatticeWord[] = []
  for (const line of text.split('\n')) {
    const node = /^I=(\d+)\s/.exec(line)?.[1]
    if (node !== undefined) {
      const said = field(line, 'W') ?? ''
      nodes.set(node, { text: /^[!<[+]/.test(said) ? '' : said, at: Number(field(line, 't')) })
    } else if (line.startsWith('J=')) {
      const [start, end] = [nodes.get(field(line, 'S') ?? ''), nodes.get(field(line, 'E') ?? '')]
      const posterior = Number(field(line, 'p'))
      if (!start || !end || !(posterior >= 0)) throw new Error(`This lattice has a link that leads nowhere: “${line}”.`)
      words.push({ text: start.text, from: start.at, to: end.at, posterior })
    }
  }
  if (words.some((w) => Number.isNaN(w.from + w.to))) throw new Error('This lattice has nodes without a time.')
  return words
}

/**
 * How sure a word is, and what else may have been said there: posteriors of all that is said at its middle, added up by
 * text (F. Wessel et al., “Confidence measures for large vocabulary continuous speech recognition”, 2001, C_med).
 * @param best a word of the likeliest sequence, in the lattice's time
 */
export function judgeWord(
  best: Pick<Word, 'text' | 'from' | 'to'>,
  lattice: readonly LatticeWord[],
): Pick<Word, 'confidence' | 'alternatives'> {
  const middle = (best.from + best.to) / 2
  const said = new Map<string, number>()
  let all = 0
  for (const { text, from, to, posterior } of lattice) {
    if (from > middle || to <= middle) continue
    all += posterior
    const inBoth = Math.min(to, best.to) - Math.max(from, best.from)
    const inOne = Math.max(to, best.to) - Math.min(from, best.from)
    if (text === best.text || inBoth >= inOne / 2) said.set(text, (said.get(text) ?? 0) + posterior)
  }
  const own = said.get(best.text) ?? 0
  const alternatives = [...said]
    .filter(([text, posterior]) => text && text !== best.text && posterior >= LEAST * all)
    .sort(([, a], [, b]) => b - a)
    .slice(0, MOST)
    .map(([text]) => text)
  return {
    confidence: all > 0 ? Math.min(1, own / all) : 0,
    ...(alternatives.length > 0 ? { alternatives } : {}),
  }
}
