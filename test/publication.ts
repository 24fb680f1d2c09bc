/** A publication of one film and some questions, as tests send it. */
import type { PublicationManifest, PublishedCheckpoint, PublishedSet } from '../core/schema/publication'

/** A question with two choices, `a` and `b`, at an instant (s). */
export const checkpoint = (id: string, at: number, questionId = id): PublishedCheckpoint => ({
  id,
  at,
  question: {
    id: questionId,
    kind: 'one-right',
    prompt: `${questionId}?`,
    choices: [
      { id: 'a', text: '1' },
      { id: 'b', text: '2' },
    ],
    hint: '',
    points: 1,
  },
})

/** @param film its bytes, and the SHA-256 of each of its parts */
export function publication(
  id: string,
  title: string,
  duration: number,
  film: { size: number; parts: string[] },
  checkpoints: PublishedCheckpoint[],
): { manifest: PublicationManifest; set: PublishedSet } {
  return {
    manifest: {
      format: 'thaw-publication',
      version: 2,
      id,
      title,
      description: '',
      language: 'en',
      duration,
      width: 2,
      height: 2,
      madeAt: '2026-11-23T00:00:00.000Z',
      files: [{ name: 'screen.mp4', type: 'video/mp4', ...film }],
      feeds: [{ id: 'screen', file: 'screen.mp4', width: 2, height: 2 }],
      layout: [{ at: 0, slots: [{ feed: 'screen', box: { x: 0, y: 0, width: 1, height: 1 } }] }],
      captions: [],
      chapters: [],
      links: [],
      kept: [{ from: 0, to: duration, at: 0 }],
    },
    set: { format: 'thaw-published-set', version: 1, publicationId: id, checkpoints },
  }
}
