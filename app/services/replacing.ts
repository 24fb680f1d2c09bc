/** Finding and replacing over caption tracks of a lecture or of a whole course, as one step that is undone at once. */
import { sayTrack } from '#core/captions/languages'
import { findReplacements, replaceIn, type Replacement, type Searched, type Wanted } from '#core/captions/replace'
import { plainText } from '#core/captions/text'
import { documentId, documentName, isOfKind, type DocumentName } from '#core/documents/kinds'
import { editTimeMap } from '#core/edit/edit'
import type { CaptionTrack } from '#core/schema/captions'
import type { EditDocument } from '#core/schema/edit'
import { sayCount } from '#core/text/words'
import { identityMap, type TimeMap } from '#core/time/time-map'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture } from './cards'
import { documentRow, goToStep, storeDocument } from './documents'
import { nowInstant } from './ids'

/** What replacing would change in one track. */
export interface FoundIn {
  lectureId: string
  title: string
  name: DocumentName<'captions'>
  /** The track, as a person can tell it from others. */
  says: string
  /** Of the lecture's edit. */
  map: TimeMap
  found: Replacement[]
}

/** Where to look: one track, all tracks of a lecture, or all lectures of a course. */
export type Scope = { lectureId: string; name: DocumentName<'captions'> } | { lectureId: string } | { courseId: string }

async function lecturesOf(scope: Scope): Promise<{ id: string; title: string }[]> {
  if ('courseId' in scope) return db.lectures.where('courseId').equals(scope.courseId).sortBy('createdAt')
  const lecture = await db.lectures.get(scope.lectureId)
  return lecture ? [lecture] : []
}

export interface TrackOf {
  lectureId: string
  title: string
  name: DocumentName<'captions'>
  track: CaptionTrack
  /** Of the lecture's edit. */
  map: TimeMap
}

/**
 * Looks into the caption tracks of a scope, one lecture after the other: of a whole course they are more than is held at
 * once, and between two of them the page goes on.
 * @param signal ends it early, where nobody waits for it any more
 */
export async function lookInto<T>(scope: Scope, look: (of: TrackOf) => T[], signal?: AbortSignal): Promise<T[]> {
  const out: T[] = []
  for (const { id, title } of await lecturesOf(scope)) {
    if (signal?.aborted) break
    const ids = (await db.documents.where('lectureId').equals(id).primaryKeys()).filter((of) =>
      'name' in scope ? of === documentId(id, scope.name) : isOfKind(of, id, 'captions'),
    )
    const [edit, ...rows] = await db.documents.bulkGet([documentId(id, 'edit'), ...ids.sort()])
    const map = edit && !edit.unreadable ? editTimeMap(edit.document as EditDocument) : identityMap
    for (const row of rows)
      if (row && !row.unreadable) {
        const name = documentName(row) as DocumentName<'captions'>
        for (const one of look({ lectureId: id, title, name, track: row.document as CaptionTrack, map })) out.push(one)
      }
  }
  return out
}

/** The texts of a track, without the times of its words: a course's are small enough to be held and looked through. */
export interface TextsOf extends Omit<FoundIn, 'found'> {
  cues: Searched[]
}

/** The texts of a scope, which take their time to be read. */
export const textsIn = (scope: Scope, signal?: AbortSignal): Promise<TextsOf[]> =>
  lookInto(
    scope,
    ({ track, ...of }) => [
      {
        ...{ ...of, says: sayTrack(track) },
        cues: track.cues.map(({ id, from, text }) => ({ id, from, text, plain: plainText(text) })),
      },
    ],
    signal,
  )

/** What replacing would change, track by track. Nothing is changed. */
export const findInTexts = (texts: readonly TextsOf[], wanted: Wanted): FoundIn[] =>
  texts.flatMap(({ cues, ...of }) => {
    const found = findReplacements({ cues }, wanted)
    return found.length > 0 ? [{ ...of, found }] : []
  })
export const findIn = async (scope: Scope, wanted: Wanted, signal?: AbortSignal): Promise<FoundIn[]> =>
  findInTexts(await textsIn(scope, signal), wanted)

/** What was replaced, also so far, to take it back. */
export interface Replaced {
  doneAt: string
  lectureIds: string[]
  count: number
}

/**
 * Replaces what was found and chosen. A cue that was changed since it was found is left as it is; each lecture is changed
 * whole or not at all.
 * @param tell what was replaced so far, before each lecture: what fails later leaves that to be taken back
 */
export async function replaceAll(
  chosen: readonly FoundIn[],
  wanted: Wanted,
  tell: (soFar: Replaced) => void = () => undefined,
): Promise<Replaced> {
  const doing = { says: `Replaced “${wanted.find.trim()}” by “${wanted.replace}”`, doneAt: nowInstant() }
  const lectureIds = [...new Set(chosen.map((c) => c.lectureId))]
  let count = 0
  for (const [done, lectureId] of lectureIds.entries()) {
    tell({ doneAt: doing.doneAt, lectureIds: lectureIds.slice(0, done), count })
    await storing(() =>
      changeLecture(lectureId, async () => {
        for (const { name, found } of chosen.filter((c) => c.lectureId === lectureId)) {
          const track = (await documentRow(lectureId, name))?.document
          if (!track) continue
          const wantedIds = new Set(found.map((f) => `${f.cueId} ${f.before}`))
          // Found anew: what another tab has changed meanwhile is another text.
          const now = findReplacements(track, wanted).filter((f) => wantedIds.has(`${f.cueId} ${f.before}`))
          if (now.length === 0) continue
          await storeDocument(lectureId, name, track, replaceIn(track, now), doing)
          count += now.reduce((sum, f) => sum + f.count, 0)
        }
      }),
    )
  }
  return { doneAt: doing.doneAt, lectureIds, count }
}

/** Takes back what was replaced, wherever nothing was done since. @returns in how many tracks something was done since */
export async function takeBack({ doneAt, lectureIds }: Replaced): Promise<number> {
  let left = 0
  for (const lectureId of lectureIds)
    await storing(() =>
      changeLecture(lectureId, async () => {
        for (const row of await db.documents.where('lectureId').equals(lectureId).toArray()) {
          const steps = await db.steps.where('documentId').equals(row.id).toArray()
          const step = steps.find((s) => s.doneAt === doneAt && s.seq < row.applied)
          if (!step) continue
          if (step.seq === row.applied - 1) await goToStep(lectureId, documentName(row), (applied) => applied - 1)
          else left++
        }
      }),
    )
  return left
}

export const sayFound = (all: readonly FoundIn[]): string => {
  const count = all.reduce((sum, f) => sum + f.found.reduce((n, r) => n + r.count, 0), 0)
  const lectures = new Set(all.map((f) => f.lectureId)).size
  return `${sayCount(count, 'time', 'times')} in ${sayCount(lectures, 'lecture', 'lectures')}`
}
