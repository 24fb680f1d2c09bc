/** Pictures in texts of questions. */
import type { OpenQuestion, QuestionKey, QuestionSet, SetPolicy } from '../schema/questions'
import type { SetUpload } from '../schema/publication'
import type { PictureLine, RichText } from '../schema/rich-text'
import { picturesOf } from '../text/rich-text'

const textsOfOpen = (open: OpenQuestion): RichText[] => [
  ...[open.prompt, open.hint],
  ...('choices' in open ? open.choices.map((c) => c.text) : []),
]

/** Every text of a question. */
export const textsIn = ({ open, key }: { open: OpenQuestion; key: QuestionKey }): RichText[] => [
  ...textsOfOpen(open),
  key.explanation,
]

function hashesIn(policy: SetPolicy, questions: readonly OpenQuestion[], keys: readonly QuestionKey[]): string[] {
  const texts = [policy.welcome, ...questions.flatMap(textsOfOpen), ...keys.map((k) => k.explanation)]
  return [...new Set(texts.flatMap(picturesOf).map(({ file }: PictureLine) => file))]
}

/** Hashes of the pictures that a set shows. */
export function picturesIn({ policy, checkpoints }: QuestionSet): string[] {
  const questions = checkpoints.flatMap((c) => c.questions)
  return hashesIn(
    policy,
    questions.map((q) => q.open),
    questions.map((q) => q.key),
  )
}

/** The same of a set as it is published. */
export const picturesPublished = ({ set, keys }: SetUpload): string[] =>
  hashesIn(
    set.policy,
    set.checkpoints.flatMap((c) => c.questions),
    keys.keys,
  )

/** Bytes that a picture may have. */
export const MOST_PICTURE = 2 << 20

const startsWith = (bytes: Uint8Array, at: number, ...these: number[]) => these.every((b, i) => bytes[at + i] === b)

/**
 * The media type of a picture by its first bytes (PNG: W3C PNG §5.2; JPEG: ITU-T T.81 B.1.1; WebP: RFC 9649 §2.4); null
 * for anything else.
 */
export function pictureType(bytes: Uint8Array): 'image/png' | 'image/jpeg' | 'image/webp' | null {
  if (startsWith(bytes, 0, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'image/png'
  if (startsWith(bytes, 0, 0xff, 0xd8, 0xff)) return 'image/jpeg'
  const isWebp = startsWith(bytes, 0, 0x52, 0x49, 0x46, 0x46) && startsWith(bytes, 8, 0x57, 0x45, 0x42, 0x50)
  return isWebp ? 'image/webp' : null
}
