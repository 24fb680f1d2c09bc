/**
 * Trigram language models as pocketsphinx reads them, and a course's own words mixed in. The file is a trie with the last
 * word of an n-gram at its root (K. Heafield, “KenLM: Faster and Smaller Language Model Queries”, 2011): unigrams as plain
 * numbers, longer n-grams packed bit by bit, with probabilities that name one of 65,536 values each.
 */
import { bitsFor, readPacked, writePacked } from './bits'

const HEADER = 'Trie Language Model'
/** Base of the logarithms in the file. */
const BASE = Math.log(1.0001)
const QUANTA = 65_536
const QUANT_BITS = 16
const UNIGRAM = 12
/** Spare bytes behind packed n-grams, so that eight can be read at once. */
const SPARE = 8

export interface TrigramModel {
  words: string[]
  /** Natural logarithms. */
  unigrams: { log: Float64Array; backoff: Float64Array }
  /** Sorted by last word, then by the one before it. */
  bigrams: {
    last: Uint32Array
    before: Uint32Array
    /** Which values of `quanta` they have. */
    log: Uint16Array
    backoff: Uint16Array
    /** Where its trigrams begin. */
    next: Uint32Array
  }
  /** What probabilities and backoffs of bigrams there are, natural logarithms. */
  quanta: { log: Float64Array; backoff: Float64Array }
  /** As they stand in the file: nothing of them is changed. */
  trigrams: { count: number; packed: Uint8Array; quanta: Uint8Array }
}

const total = (width: number, count: number) => Math.floor(((1 + count) * width + 7) / 8) + SPARE

/** @throws {Error} with a sentence for what is no such model */
export function readTrigramModel(bytes: Uint8Array): TrigramModel {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const text = (from: number, to: number) => {
    let out = ''
    for (let i = from; i < to; i += 4096) out += String.fromCharCode(...bytes.subarray(i, Math.min(to, i + 4096)))
    return out
  }
  const cut = () => new Error('This is no language model that can be read: it is cut off.')
  if (bytes.length < 64 || text(0, HEADER.length) !== HEADER || view.getUint8(HEADER.length) !== 3)
    throw new Error('This is no language model of three words that can be read.')
  let at = HEADER.length + 1
  const [n1, n2, n3] = [0, 4, 8].map((i) => view.getUint32(at + i, true)) as [number, number, number]
  at += 12 + 4
  const wordBits = bitsFor(n1)
  const nextBits = bitsFor(n3)
  const middle = wordBits + 2 * QUANT_BITS + nextBits
  const quanta = at
  const roots = quanta + 3 * 4 * QUANTA
  const packedBigrams = roots + UNIGRAM * (n1 + 1)
  const packedTrigrams = packedBigrams + total(middle, n2)
  const strings = packedTrigrams + total(wordBits + QUANT_BITS, n3)
  if (strings + 4 > bytes.length) throw cut()
  const length = view.getUint32(strings, true)
  if (strings + 4 + length > bytes.length) throw cut()
  const words = text(strings + 4, strings + 4 + length).split('\0')
  words.pop()
  if (words.length !== n1) throw cut()

  const table = (i: number) =>
    Float64Array.from({ length: QUANTA }, (_, k) => view.getFloat32(quanta + 4 * (i * QUANTA + k), true) * BASE)
  const unigrams = { log: new Float64Array(n1), backoff: new Float64Array(n1) }
  // Those that no word leads to, at the end, do not count.
  const linked = Math.min(n2, view.getUint32(roots + UNIGRAM * n1 + 8, true))
  const bigrams = {
    ...{ last: new Uint32Array(linked), before: new Uint32Array(linked), next: new Uint32Array(linked + 1) },
    ...{ log: new Uint16Array(linked), backoff: new Uint16Array(linked) },
  }
  const packed = new DataView(bytes.buffer, bytes.byteOffset + packedBigrams, packedTrigrams - packedBigrams)
  for (let w = 0; w < n1; w++) {
    const root = roots + UNIGRAM * w
    unigrams.log[w] = view.getFloat32(root, true) * BASE
    unigrams.backoff[w] = view.getFloat32(root + 4, true) * BASE
    const end = view.getUint32(root + UNIGRAM + 8, true)
    for (let i = view.getUint32(root + 8, true); i < Math.min(end, linked); i++) bigrams.last[i] = w
  }
  for (let i = 0; i < linked; i++) {
    const bit = i * middle
    bigrams.before[i] = readPacked(packed, bit, wordBits)
    bigrams.backoff[i] = readPacked(packed, bit + wordBits, QUANT_BITS)
    bigrams.log[i] = readPacked(packed, bit + wordBits + QUANT_BITS, QUANT_BITS)
    bigrams.next[i] = readPacked(packed, bit + wordBits + 2 * QUANT_BITS, nextBits)
  }
  bigrams.next[linked] = n3
  return {
    words,
    unigrams,
    bigrams,
    quanta: { log: table(0), backoff: table(1) },
    trigrams: {
      count: n3,
      packed: bytes.subarray(packedTrigrams, strings),
      quanta: bytes.subarray(quanta, roots),
    },
  }
}

export function writeTrigramModel({ words, unigrams, bigrams, trigrams }: TrigramModel): Uint8Array {
  const [n1, n2, n3] = [words.length, bigrams.last.length, trigrams.count]
  const wordBits = bitsFor(n1)
  const nextBits = bitsFor(n3)
  const middle = wordBits + 2 * QUANT_BITS + nextBits
  const letters = words.map((w) => `${w}\0`).join('')
  const roots = HEADER.length + 1 + 16 + trigrams.quanta.length
  const packedBigrams = roots + UNIGRAM * (n1 + 1)
  const packedTrigrams = packedBigrams + total(middle, n2)
  const strings = packedTrigrams + trigrams.packed.length
  const out = new Uint8Array(strings + 4 + letters.length)
  const view = new DataView(out.buffer)
  const put = (at: number, text: string) => {
    for (let i = 0; i < text.length; i++) out[at + i] = text.charCodeAt(i)
  }
  put(0, HEADER)
  let at = HEADER.length
  view.setUint8(at++, 3)
  for (const n of [n1, n2, n3, 1]) {
    view.setUint32(at, n, true)
    at += 4
  }
  out.set(trigrams.quanta, at)
  let first = 0
  for (let w = 0; w <= n1; w++) {
    const root = roots + UNIGRAM * w
    while (first < n2 && (bigrams.last[first] as number) < w) first++
    view.setFloat32(root, (unigrams.log[w] ?? 0) / BASE, true)
    view.setFloat32(root + 4, (unigrams.backoff[w] ?? 0) / BASE, true)
    view.setUint32(root + 8, w === n1 ? n2 : first, true)
  }
  const packed = new DataView(out.buffer, packedBigrams, packedTrigrams - packedBigrams)
  for (let i = 0; i <= n2; i++) {
    const bit = i * middle
    if (i < n2) {
      writePacked(packed, bit, wordBits, bigrams.before[i] as number)
      writePacked(packed, bit + wordBits, QUANT_BITS, bigrams.backoff[i] as number)
      writePacked(packed, bit + wordBits + QUANT_BITS, QUANT_BITS, bigrams.log[i] as number)
    }
    writePacked(packed, bit + wordBits + 2 * QUANT_BITS, nextBits, bigrams.next[i] as number)
  }
  out.set(trigrams.packed, packedTrigrams)
  view.setUint32(strings, letters.length, true)
  put(strings + 4, letters)
  return out
}

/** How much a course's text counts beside the model, at most, and how soon. */
export interface MixSettings {
  /** The most that it counts for what follows a word. */
  share: number
  /** So often has a word to be in it for half of that. */
  half: number
  /** The most that it counts for which words there are. */
  ofWords: number
}
export const usualMix: MixSettings = { share: 0.5, half: 2, ofWords: 0.1 }

const OPEN = '<s>'
const CLOSE = '</s>'

/**
 * A model that knows a text too: probabilities of its words, and of two in a row, are interpolated with those of the model
 * (F. Jelinek, R. Mercer, “Interpolated estimation of Markov source parameters from sparse data”, 1980), and backoffs are
 * reckoned anew where that changes them. Words that the model does not know join it,
 * for as long as it has room: the general one for some 58,000.
 * @param sentences lists of words, as the model writes them
 */
export function mixIn(
  model: TrigramModel,
  sentences: readonly (readonly string[])[],
  { share, half, ofWords }: MixSettings = usualMix,
): TrigramModel {
  const words = [...model.words]
  const index = new Map(words.map((w, i) => [w, i]))
  // As many as the packed trigrams have bits for.
  const room = 2 ** bitsFor(words.length) - 1
  const idOf = (word: string): number[] => {
    const known = index.get(word)
    if (known !== undefined) return [known]
    if (words.length >= room) return []
    index.set(word, words.length)
    return [words.push(word) - 1]
  }
  const ones = new Map<number, number>()
  const pairs = new Map<number, Map<number, number>>()
  let all = 0
  for (const sentence of sentences) {
    let [before = 0] = idOf(OPEN)
    for (const word of [...sentence, CLOSE].flatMap(idOf)) {
      ones.set(word, (ones.get(word) ?? 0) + 1)
      const after = pairs.get(before) ?? new Map<number, number>()
      pairs.set(before, after.set(word, (after.get(word) ?? 0) + 1))
      before = word
      all++
    }
  }
  if (all === 0) return model
  const of = (counts: Map<number, number>) => [...counts.values()].reduce((sum, n) => sum + n, 0)

  const known = model.words.length
  const log = new Float64Array(words.length)
  const backoff = new Float64Array(words.length)
  backoff.set(model.unigrams.backoff)
  for (let w = 0; w < words.length; w++) {
    const before = w < known ? Math.exp(model.unigrams.log[w] as number) : 0
    log[w] = Math.log((1 - ofWords) * before + (ofWords * (ones.get(w) ?? 0)) / all)
  }

  /** Of the contexts that are in the text: how much it counts, and what is explicit of them. */
  const contexts = new Map(
    [...pairs].map(([u, after]) => {
      const n = of(after)
      return [u, { weight: (share * n) / (n + half), n, after: new Map(after), explicit: 0, ofWords: 0 }]
    }),
  )
  const { last, before, next } = model.bigrams
  const nearestLog = nearestIn(model.quanta.log)
  const nearestBackoff = nearestIn(model.quanta.backoff)
  const logs = model.bigrams.log.slice()
  for (let i = 0; i < last.length; i++) {
    const context = contexts.get(before[i] as number)
    if (!context) continue
    const w = last[i] as number
    const own = context.after.get(w) ?? 0
    context.after.delete(w)
    const old = Math.exp(model.quanta.log[logs[i] as number] as number)
    const chosen = nearestLog(Math.log((1 - context.weight) * old + (context.weight * own) / context.n))
    logs[i] = chosen
    context.explicit += Math.exp(model.quanta.log[chosen] as number)
    context.ofWords += Math.exp(log[w] as number)
  }
  const added: { last: number; before: number; log: number }[] = []
  for (const [u, context] of contexts)
    for (const [w, n] of context.after) {
      const old = Math.exp(
        (model.unigrams.backoff[u] ?? 0) + (w < known ? (model.unigrams.log[w] as number) : -Infinity),
      )
      const chosen = nearestLog(Math.log((1 - context.weight) * old + (context.weight * n) / context.n))
      added.push({ last: w, before: u, log: chosen })
      context.explicit += Math.exp(model.quanta.log[chosen] as number)
      context.ofWords += Math.exp(log[w] as number)
    }
  for (const [u, { explicit, ofWords }] of contexts)
    backoff[u] = Math.log(Math.max(1e-6, 1 - explicit) / Math.max(1e-6, 1 - ofWords))

  added.sort((a, b) => a.last - b.last || a.before - b.before)
  const count = last.length + added.length
  const bigrams = {
    ...{ last: new Uint32Array(count), before: new Uint32Array(count), next: new Uint32Array(count + 1) },
    ...{ log: new Uint16Array(count), backoff: new Uint16Array(count) },
  }
  const certain = nearestBackoff(0)
  let k = 0
  for (let i = 0, to = 0; to < count; to++) {
    const extra = added[k]
    const isOld =
      i < last.length &&
      (!extra || (last[i] as number) < extra.last || (last[i] === extra.last && (before[i] as number) < extra.before))
    const from = isOld || !extra ? null : extra
    bigrams.last[to] = from ? from.last : (last[i] as number)
    bigrams.before[to] = from ? from.before : (before[i] as number)
    bigrams.log[to] = from ? from.log : (logs[i] as number)
    bigrams.backoff[to] = from ? certain : (model.bigrams.backoff[i] as number)
    bigrams.next[to] = next[i] as number
    if (from) k++
    else i++
  }
  bigrams.next[count] = model.trigrams.count
  return { ...model, words, unigrams: { log, backoff }, bigrams }
}

/** Which of sorted values is nearest to one. */
const nearestIn = (sorted: Float64Array) => (value: number) => {
  let [low, high] = [0, sorted.length - 1]
  while (low < high) {
    const middle = (low + high) >>> 1
    if ((sorted[middle] as number) < value) low = middle + 1
    else high = middle
  }
  const below = sorted[low - 1]
  return below !== undefined && value - below < (sorted[low] as number) - value ? low - 1 : low
}
