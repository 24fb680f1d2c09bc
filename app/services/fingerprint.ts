/** What a publication is made from, as digests: the same desk gives the same. */
import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { firstDocumentId, type Documents, type Kind } from '#core/documents/kinds'
import { feedsInSlots } from '#core/edit/edit'
import { shownFeeds, type Recording } from '#core/record/recording'
import type { EditDocument } from '#core/schema/edit'
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

/** A lecture's documents of a kind that can be read, by their ids. */
export function documentsOf<K extends Kind>({ rows }: Pick<Published, 'rows'>, kind: K) {
  return rows
    .filter((row) => row.kind === kind && !row.unreadable)
    .map(({ id, document }) => ({ id, document: document as Documents[K] }))
}

/** What of an edit is seen or heard: where it was split is neither. */
const seenOf = ({ splits: _, ...seen }: EditDocument) => seen

/** What of a lecture's particulars, recording and documents its films and what goes with them are made from. */
function filmsText(published: Published): string {
  const { lecture, recording } = published
  const captions = documentOf(published, 'captions')
  const edit = documentOf(published, 'edit')
  const [chapters, links] = [documentOf(published, 'chapters'), documentOf(published, 'links')]
  // A list in which nothing stands any more is as good as none.
  const marks = [chapters?.chapters.length ? chapters : null, links?.links.length ? links : null]
  return canonicalJson([
    lecture.title,
    lecture.description,
    recording &&
      shownFeeds(recording, edit ? feedsInSlots(edit) : undefined)
        .map((f) => f.fileId)
        .join(' '),
    edit && seenOf(edit),
    captions?.state === 'on' ? captions.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null,
    ...marks,
  ])
}

/**
 * SHA-256 of a text, as lower-case hexadecimal digits. Not the browser’s own, which answers later: a transaction would be
 * over by then.
 */
export const sha256Text = (text: string): string => toHex(sha256(utf8ToBytes(text)))

/** Digests of what a publication is made from. */
export interface Fingerprints {
  /** Of all but its questions. */
  films: string
  /** Of its sets of questions. */
  sets: string
}

/** Tells whether a publication is what the desk shows. */
export const fingerprints = (published: Published): Fingerprints => ({
  films: sha256Text(filmsText(published)),
  sets: sha256Text(canonicalJson(documentsOf(published, 'questions'))),
})
