/** What was heard in the speech of takes, and which ones wait to be listened to. */
import type { Table } from 'dexie'
import { soundOf, uncaptioned, type PlacedTake, type Recording } from '#core/record/recording'
import type { Cue } from '#core/schema/captions'
import type { Take } from '#core/schema/lecture'
import { db, type HeardRow } from '~/db/database'

/** What `noteArrival` reads and writes, besides the lecture. */
export const arrivalTables = (): Table[] => [db.heard, db.courses]

/**
 * Has the captions of a take that has come drafted by themselves, where its course does not say otherwise. To be called
 * inside the change that places it.
 */
export async function noteArrival({ id, lectureId, feeds }: Take): Promise<void> {
  const sound = feeds.find((f) => f.kind === 'sound')
  const lecture = await db.lectures.get(lectureId)
  const course = lecture && (await db.courses.get(lecture.courseId))
  if (sound && course?.draftsOnArrival !== false)
    await db.heard.put({ ...nothingHeard(id, sound.fileId), arrived: true })
}

export const nothingHeard = (takeId: string, fileId: string): HeardRow => ({
  ...{ takeId, fileId, words: [], until: 0, joined: 0 },
})

/** What was heard of a take's sound; nothing when it has another one now. */
export async function heardOf(takeId: string, fileId: string): Promise<HeardRow> {
  const row = await db.heard.get(takeId)
  return row?.fileId === fileId ? row : nothingHeard(takeId, fileId)
}

/** The takes whose draft was begun and stopped before the end. */
export async function stoppedDrafts(recording: Recording): Promise<PlacedTake[]> {
  const rows = await db.heard.bulkGet(recording.takes.map((t) => t.id))
  return recording.takes.filter((take, i) => {
    const row = rows[i]
    const isBegun = row !== undefined && row.joined > 0 && !row.whole && !row.givesWay
    return isBegun && soundOf(recording, take.id)?.fileId === row.fileId
  })
}

/** The takes of which captions are to be drafted: those without any, and those whose draft stopped. */
export async function toDraft(recording: Recording, cues: readonly Pick<Cue, 'from'>[]): Promise<PlacedTake[]> {
  const open = new Set([...uncaptioned(recording, cues), ...(await stoppedDrafts(recording))])
  return recording.takes.filter((take) => open.has(take))
}
