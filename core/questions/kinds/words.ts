/** A word or two, of which several may be right. */
import { Type, type Static } from '@sinclair/typebox'
import { distance } from 'fastest-levenshtein'
import { closed } from '../../schema/parts'
import { keyParts, openParts, tallyBy, Typed, type QuestionKind } from './kind'

const kind = Type.Literal('words')
const open = Type.Object({ ...openParts, kind }, closed)
const key = Type.Object(
  {
    ...{ ...keyParts, kind },
    /** The first is the one that is shown. */
    accepted: Type.Array(Typed, { minItems: 1, maxItems: 50 }),
    /** Whether capitals and accents have to be as they are written. */
    caseCounts: Type.Boolean(),
    accentsCount: Type.Boolean(),
    /** Letters that may be wrong, too many or missing, at most; never as many as a third of the word. */
    slips: Type.Integer({ minimum: 0, maximum: 3 }),
  },
  closed,
)
const answer = Type.Object({ kind, text: Typed }, closed)
export const wordsSchemas = { open, key, answer }
type Open = Static<typeof open>
type Key = Static<typeof key>
type Answer = Static<typeof answer>

/** As two answers are compared: without what does not count. */
function comparable(text: string, { caseCounts, accentsCount }: Pick<Key, 'caseCounts' | 'accentsCount'>): string {
  let plain = text
    .normalize('NFKD')
    .replace(/[‘’]/g, "'")
    .replace(/[‐‑–]/g, '-')
    .replace(/\s+/g, ' ')
    .replace(/^[\s"“”„]+|[\s"“”.,;:!?]+$/g, '')
  if (!accentsCount) plain = plain.replace(/\p{M}/gu, '')
  if (!caseCounts) plain = plain.toLowerCase()
  return plain.normalize('NFC')
}

/** Which of the accepted an answer is; -1 for none. */
export function acceptedAs(key: Key, text: string): number {
  const given = comparable(text, key)
  if (given === '') return -1
  return key.accepted.findIndex((accepted) => {
    const wanted = comparable(accepted, key)
    if (wanted === '') return false
    return given === wanted || distance(given, wanted) <= Math.min(key.slips, Math.floor((wanted.length - 1) / 3))
  })
}

export const words = {
  name: 'A word or two',
  asks: 'Write a word or two',
  fresh: () => ({
    open: { kind: 'words' },
    key: { kind: 'words', accepted: [''], caseCounts: false, accentsCount: false, slips: 1 },
  }),
  problems: (_, { accepted }) => (accepted.some((a) => a.trim()) ? [] : ['Write at least one answer that is right.']),
  answerProblem: (_, { text }) => (text.trim() ? null : 'Nothing is written.'),
  share: (_, key, { text }) => (acceptedAs(key, text) >= 0 ? 1 : 0),
  tally: (_, key, answers) =>
    tallyBy(
      answers,
      ({ text }) => key.accepted[acceptedAs(key, text)] ?? comparable(text, key),
      ({ text }) => acceptedAs(key, text) >= 0,
    ),
  say: (_, { text }) => text,
  sayKey: (_, { accepted }) => accepted.filter((a) => a.trim()).join(', or '),
} satisfies QuestionKind<Open, Key, Answer>
