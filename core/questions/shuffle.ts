/** Choices in an order of each student's own, the same whenever they come back. */
import { shuffler } from 'd3-array'
import type { OpenQuestion } from '../schema/questions'

/** A number of 32 bits from a text (FNV-1a; Fowler, Noll, Vo, RFC 9923). */
function hash32(text: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return hash >>> 0
}

/** Numbers 0…1 that follow from a seed (Marsaglia, Xorshift RNGs, Journal of Statistical Software 8, 2003). */
function randomFrom(seed: number): () => number {
  let x = seed || 1
  return () => {
    x ^= x << 13
    x ^= x >>> 17
    x ^= x << 5
    return (x >>> 0) / 2 ** 32
  }
}

/**
 * A question as one student sees it.
 * @param who names the student and where it is asked
 */
export function shuffledFor(open: OpenQuestion, who: string): OpenQuestion {
  if (!('choices' in open)) return open
  if (open.kind !== 'order' && !open.shuffled) return open
  const choices = shuffler(randomFrom(hash32(`${who} ${open.id}`)))([...open.choices])
  return { ...open, choices }
}
