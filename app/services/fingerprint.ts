/** What a publication is made from, as one text and its digest: the same desk gives the same. */
import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { firstDocumentId, type Documents, type Kind } from '#core/documents/kinds'
import { shownFeeds, type Recording } from '#core/record/recording'
import type { Lecture } from '#core/schema/lecture'
import { canonicalJson } from '#core/text/canonical-json'
import { toHex } from '#core/text/hex'
import type { DocumentRow } from '~/db/database'

/** What of a lecture a publication is made from. */
export interface Published {
  lecture: Lecture
  recording: Recording | null
  rows: readonly DocumentRow[]
}

/** A lecture's document of a kind, or null when there is none that can be read. */
export function documentOf<K extends Kind>({ lecture, rows }: Pick<Published, 'lecture' | 'rows'>, kind: K) {
  const row = rows.find((r) => r.id === firstDocumentId(lecture.id, kind))
  return row && !row.unreadable ? (row.document as Documents[K]) : null
}

/** What of a lecture's particulars, recording and documents students are given. */
export function fingerprintText(published: Published): string {
  const { lecture, recording } = published
  const captions = documentOf(published, 'captions')
  const marks = [documentOf(published, 'chapters'), documentOf(published, 'links')]
  return canonicalJson([
    lecture.title,
    lecture.description,
    recording &&
      shownFeeds(recording)
        .map((f) => f.fileId)
        .join(' '),
    documentOf(published, 'edit'),
    captions?.state === 'on' ? captions.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null,
    documentOf(published, 'questions'),
    // Not a word where there are none, as before there were any.
    ...(marks.some(Boolean) ? marks : []),
  ])
}

/**
 * SHA-256 of a text, as lower-case hexadecimal digits. Not the browser’s own, which answers later: a transaction would be
 * over by then.
 */
export const sha256Text = (text: string): string => toHex(sha256(utf8ToBytes(text)))

/** Tells whether a publication is what the desk shows. */
export const fingerprint = (published: Published): string => sha256Text(fingerprintText(published))
