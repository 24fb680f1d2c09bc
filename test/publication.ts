/** A publication of one film and some questions, as tests send it. */
import { onlySetId } from '../core/packages/upgrade'
import { DEFAULT_POLICY } from '../core/questions/policy'
import { oneRight } from './questions'
import type { Place, PublicationManifest, PublishedCheckpoint, SetUpload } from '../core/schema/publication'

/** A question with two choices, `a` and `b`, at an instant (s). */
export const checkpoint = (id: string, at: number, questionId = id): PublishedCheckpoint => ({
  id,
  at,
  questions: [oneRight(questionId).open],
})

/**
 * @param film its bytes, and the SHA-256 of each of its parts
 * @param right the right choice of every question
 */
export function publication(
  id: string,
  title: string,
  duration: number,
  film: { size: number; parts: string[] },
  checkpoints: PublishedCheckpoint[],
  right = 'a',
): { manifest: PublicationManifest; captions: []; sets: [SetUpload] } {
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
    captions: [],
    sets: [setOf(id, onlySetId(id), checkpoints, right)],
  }
}

/** A set of questions, each with the same right choice. */
export const setOf = (
  publicationId: string,
  id: string,
  checkpoints: PublishedCheckpoint[],
  right = 'a',
): SetUpload => ({
  set: {
    format: 'thaw-published-set',
    version: 4,
    id,
    publicationId,
    title: 'Questions',
    policy: DEFAULT_POLICY,
    checkpoints,
  },
  keys: {
    format: 'thaw-keys',
    version: 2,
    publicationId,
    keys: checkpoints.flatMap((c) => c.questions).map(({ id }) => oneRight(id, undefined, { right }).key),
  },
})

/** A place in week 1 of a course, without an end, at which the publication's set of `publication` is asked. */
export const placeOf = (id: string, publicationId: string, courseId: string, more: Partial<Place> = {}): Place => ({
  id,
  publicationId,
  sets: [onlySetId(publicationId)],
  courseId,
  week: 1,
  from: '2026-11-23T10:00:00.000Z',
  until: null,
  options: { download: false },
  ...more,
})
