/** What a publication is made from, as digests: the same desk gives the same. */
import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { documentId, documentName, type DocumentName, type Documents, type Kind } from '#core/documents/kinds'
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

/** A lecture's first document of a kind, or null when there is none that can be read. */
export function documentOf<K extends Kind>({ lecture, rows }: Pick<Published, 'lecture' | 'rows'>, kind: K) {
  const row = rows.find((r) => r.id === documentId(lecture.id, kind))
  return row && !row.unreadable ? (row.document as Documents[K]) : null
}

/** A lecture's documents of a kind that can be read, with what they are called, the first of them first. */
export function documentsOf<K extends Kind>({ rows }: Pick<Published, 'rows'>, kind: K) {
  return rows
    .filter((row) => row.kind === kind && !row.unreadable)
    .map((row) => ({
      id: row.id,
      name: documentName(row) as DocumentName<K>,
      document: row.document as Documents[K],
    }))
    .sort((a, b) => a.name.localeCompare(b.name))
}

/** What of an edit is seen or heard: where it was split is neither. */
const seenOf = ({ splits: _, ...seen }: EditDocument) => seen

/** What of a lecture's particulars, recording and documents its films and what goes with them are made from. */
export function filmsMadeFrom(published: Published): unknown[] {
  const { lecture, recording } = published
  const edit = documentOf(published, 'edit')
  const [chapters, links] = [documentOf(published, 'chapters'), documentOf(published, 'links')]
  // A list in which nothing stands any more is as good as none.
  const marks = [chapters?.chapters.length ? chapters : null, links?.links.length ? links : null]
  return [
    lecture.title,
    lecture.description,
    recording &&
      shownFeeds(recording, edit ? feedsInSlots(edit) : undefined)
        .map((f) => f.fileId)
        .join(' '),
    edit && seenOf(edit),
    ...marks,
  ]
}

/** What of caption tracks students see. */
const captionsMadeFrom = (published: Published) =>
  documentsOf(published, 'captions')
    .filter(({ document }) => document.state === 'on')
    .map(({ document: { language, role = 'captions', cues } }) => [
      language,
      role,
      cues.map((c) => [c.from, c.to, c.text, c.settings]),
    ])

/**
 * SHA-256 of a text, as lower-case hexadecimal digits. Not the browser’s own, which answers later: a transaction would be
 * over by then.
 */
export const sha256Text = (text: string): string => toHex(sha256(utf8ToBytes(text)))

/** Digests of what a publication is made from. */
export interface Fingerprints {
  /** Of all but its captions and questions. */
  films: string
  /** Of its captions, as far as they are on. */
  captions: string
  /** Of its sets of questions. */
  sets: string
}

/** Tells whether a publication is what the desk shows. */
export const fingerprints = (published: Published): Fingerprints => ({
  films: sha256Text(canonicalJson(filmsMadeFrom(published))),
  captions: sha256Text(canonicalJson(captionsMadeFrom(published))),
  sets: sha256Text(canonicalJson(documentsOf(published, 'questions').map(({ id, document }) => ({ id, document })))),
})
