/** A lecture's caption tracks: begun, deleted, switched on and off; what is published follows at once. */
import { sayTrack } from '#core/captions/languages'
import { newTrack, setState } from '#core/captions/track'
import type { DocumentName } from '#core/documents/kinds'
import type { CaptionState, CaptionTrack, TrackRole } from '#core/schema/captions'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { changeLecture } from './cards'
import { deleteDocument, documentRow, storeDocument } from './documents'
import { fingerprints } from './fingerprint'
import { loadCheckedParts } from './lectures'
import { sendCaptions } from './publishing'

type TrackName = DocumentName<'captions'>

/** What a further track is called: one for each language and role, however often it is begun. */
export const trackName = (role: TrackRole, language: string): TrackName => `captions-${role}-${language}`

/**
 * Begins a further track.
 * @param from the track whose times it begins with, its words to be written anew; null for an empty one
 * @throws {Error} with a sentence when there is one already
 */
export async function addTrack(
  lectureId: string,
  role: TrackRole,
  language: string,
  from: CaptionTrack | null,
): Promise<TrackName> {
  const name = trackName(role, language)
  const cues = from?.cues.map(({ id, from: begins, to, text, settings }) => ({
    ...{ id, from: begins, to, text },
    ...(settings && { settings }),
  }))
  const track: CaptionTrack = { ...newTrack({ cues: cues ?? [] }, 'person', language), role }
  await storing(() =>
    changeLecture(lectureId, async () => {
      if (await documentRow(lectureId, name)) throw new Error(`There is a track of ${sayTrack(track)} already.`)
      await storeDocument(lectureId, name, null, track, { says: `Began ${sayTrack(track)}` })
    }),
  )
  return name
}

/**
 * Whether somebody worked at a track, or it came from elsewhere: all but a recogniser's draft that is as it was made, which
 * is its first step.
 */
export async function isWorkedOn(lectureId: string, name: TrackName): Promise<boolean> {
  const row = await documentRow(lectureId, name)
  if (!row || row.document.cues.length === 0) return false
  const { source, state, cues } = row.document
  return source !== 'recogniser' || state !== 'draft' || row.applied > 1 || cues.some((c) => c.checked)
}

/** Deletes a track with its history. Students who saw it do not any more once that is sent. */
export const deleteTrack = (lectureId: string, name: TrackName): Promise<void> =>
  storing(() => deleteDocument(lectureId, name))

/** The state in which a track that is to be checked is left: where the course says so, it is on as soon as it is checked. */
export async function stateFor(lectureId: string, wanted: CaptionState): Promise<CaptionState> {
  const lecture = await db.lectures.get(lectureId)
  const course = lecture && (await db.courses.get(lecture.courseId))
  return wanted === 'checked' && course?.captionsGoOn ? 'on' : wanted
}

/**
 * Sets how far a track is.
 * @returns how far it is then
 * @throws {Error} with a sentence when it is not there any more
 */
export const setTrackState = (lectureId: string, name: TrackName, wanted: CaptionState): Promise<CaptionState> =>
  storing(async () => {
    const state = await stateFor(lectureId, wanted)
    await changeLecture(lectureId, async () => {
      const track = (await documentRow(lectureId, name))?.document
      if (!track) throw new Error('These captions are not there any more.')
      const says = { draft: 'Draft', checked: 'Checked', on: 'On for students' }[state]
      await storeDocument(lectureId, name, track, setState(track, state), { says: `State: ${says}` })
    })
    return state
  })

/**
 * Whether what students see of captions is what stands here.
 * none: nothing is published; same; other: they see an earlier state.
 */
export async function captionsOut(lectureId: string): Promise<'none' | 'same' | 'other'> {
  const parts = await loadCheckedParts(lectureId)
  if (!parts?.release) return 'none'
  return parts.release.captions === fingerprints(parts).captions ? 'same' : 'other'
}

/**
 * Has what is out follow, where something is published that says otherwise.
 * @param signIn asks for the author's key; what is published stays as it was where it says no
 * @returns whether students see now what stands here, or will once it is published
 * @throws {Error} with a sentence when it could not be sent
 */
export async function followCaptions(lectureId: string, signIn: () => Promise<boolean>): Promise<boolean> {
  if ((await captionsOut(lectureId)) !== 'other') return true
  if (!(await signIn())) return false
  await sendCaptions(lectureId)
  return true
}
