/**
 * The card of a lecture: all that the term shows of it, in one small row. It is written in the transaction of whatever
 * changes the lecture, so that the term reads nothing else, and is never behind.
 */
import type { Table } from 'dexie'
import { editTimeMap, isTidied } from '#core/edit/edit'
import { releaseEnd } from '#core/course/release'
import { isInside } from '#core/library/folders'
import { readiness, type LectureFacts } from '#core/library/readiness'
import { checkpointProblems } from '#core/questions/set'
import { joinTakes, recordingState, uncaptioned, type Recording } from '#core/record/recording'
import type { Lecture, Take } from '#core/schema/lecture'
import { projectInstants, projectRange } from '#core/time/time-map'
import { db, type CardRow, type DocumentRow, type PlaceRow, type ReleaseRow } from '~/db/database'
import { documentOf, documentsOf, fingerprints, type Published } from './fingerprint'
import { nowInstant } from './ids'

export interface LectureParts {
  lecture: Lecture
  /** As they were recorded, whatever their state; without what was discarded. */
  takes: Take[]
  /** The whole ones among them, joined; null while there is none. */
  recording: Recording | null
  rows: DocumentRow[]
  release: ReleaseRow | null
  /** Where it stands in courses, or stood. */
  places: PlaceRow[]
}

/** Whether what students get is what the desk now shows. */
export const isCurrent = (parts: Pick<LectureParts, 'release'> & Published): boolean => {
  const { films, captions, sets } = fingerprints(parts)
  return parts.release?.films === films && parts.release.captions === captions && parts.release.sets === sets
}

/** Everything that belongs to one lecture, or null when there is no such lecture. */
export async function loadParts(lectureId: string): Promise<LectureParts | null> {
  const lecture = await db.lectures.get(lectureId)
  if (!lecture) return null
  const [takes, rows, release, places] = await Promise.all([
    takesOf(lectureId),
    db.documents.where('lectureId').equals(lectureId).sortBy('id'),
    db.releases.get(lectureId),
    db.places.where('lectureId').equals(lectureId).sortBy('place.from'),
  ])
  return { lecture, takes, recording: joinTakes(takes), rows, release: release ?? null, places }
}

/** The takes of a lecture as they were recorded; what was discarded does not count. */
export const takesOf = (lectureId: string): Promise<Take[]> =>
  db.takes
    .where('lectureId')
    .equals(lectureId)
    .and((t) => t.state !== 'discarded')
    .sortBy('startedAt')

/** What a lecture's readiness is computed from, but for the present time. */
export function lectureFacts(parts: LectureParts): Omit<LectureFacts, 'now'> {
  const { takes, recording, release, places } = parts
  const edit = documentOf(parts, 'edit')
  const captions = documentOf(parts, 'captions')
  const all = documentsOf(parts, 'questions').flatMap(({ document }) => document.checkpoints)
  const complete = all.filter((c) => checkpointProblems(c).length === 0)
  const map = edit && editTimeMap(edit)
  const lost = map ? projectInstants(map, complete, (c) => c.at).lost.length : 0
  // A take that is taken out whole needs no captions.
  const bare =
    recording && map
      ? uncaptioned(recording, captions?.cues ?? []).filter((take) => projectRange(map, take).pieces.length > 0)
      : []
  return {
    recording: recordingState(takes),
    tidied: edit !== null && isTidied(edit),
    captions: captions?.state ?? null,
    uncaptioned: bare.length,
    asked: { complete: complete.length, unfinished: all.length - complete.length, lost },
    places: places.filter((p) => !p.removed).map(({ place: { from, until } }) => ({ from, until })),
    published: !release ? 'no' : isCurrent(parts) ? 'current' : 'outdated',
  }
}

async function cardOf(parts: LectureParts): Promise<CardRow> {
  const { lecture, takes, recording } = parts
  const facts = lectureFacts(parts)
  const duration = takes.length ? (recording?.duration ?? 0) : null
  const until = releaseEnd(facts.places)
  const waits = duration !== null && readiness({ ...facts, now: nowInstant() }).next !== null
  return {
    lectureId: lecture.id,
    courseId: lecture.courseId,
    folder: lecture.folder ?? '',
    waiting: waits ? 1 : 0,
    ...(!waits && until && { until }),
    lecture,
    facts,
    duration,
    liveAt: (await db.broadcasts.get(lecture.id))?.startsAt ?? null,
  }
}

/** What a card is made of, and the card. */
export const lectureTables = (): Table[] => [
  db.lectures,
  db.takes,
  db.documents,
  db.steps,
  db.releases,
  db.places,
  db.broadcasts,
  db.cards,
]

async function writeCard(lectureId: string): Promise<void> {
  const parts = await loadParts(lectureId)
  if (parts) await db.cards.put(await cardOf(parts))
  else await db.cards.delete(lectureId)
}

/**
 * Changes a lecture, whatever of it, in one transaction that ends with its card. May be called inside another such
 * change, and inside a transaction that holds all its tables.
 * @param more tables that are changed too
 */
export const changeLecture = <T>(lectureId: string, act: () => Promise<T>, more: Table[] = []): Promise<T> =>
  db.transaction('rw', [...lectureTables(), ...more], async () => {
    const value = await act()
    await writeCard(lectureId)
    return value
  })

/** The cards of a course, or of one of its folders with all that is inside it, in the order in which they were made. */
export async function cardsOf(courseId: string, folder = ''): Promise<CardRow[]> {
  const cards = await db.cards.where('courseId').equals(courseId).toArray()
  const inside = folder ? cards.filter((c) => isInside(c.folder, folder)) : cards
  return inside.sort((a, b) => a.lecture.createdAt.localeCompare(b.lecture.createdAt))
}

/** The cards of lectures in no course, also where another tab has just deleted theirs: nothing is seen nowhere. */
export async function unplacedCards(): Promise<CardRow[]> {
  const known = new Set(await db.courses.toCollection().primaryKeys())
  const courseIds = (await db.cards.orderBy('courseId').uniqueKeys()) as string[]
  const cards = await db.cards
    .where('courseId')
    .anyOf(courseIds.filter((id) => !known.has(id)))
    .toArray()
  return cards.sort((a, b) => a.lecture.createdAt.localeCompare(b.lecture.createdAt))
}

/** How many recorded lectures wait for a person; what is archived waits for nobody. */
export async function countWaiting(): Promise<number> {
  const terms = new Set(await db.terms.filter((t) => t.archived === true).primaryKeys())
  const away = new Set(await db.courses.filter((c) => c.archived === true || terms.has(c.termId)).primaryKeys())
  const count = (cards: ReturnType<typeof db.cards.toCollection>) =>
    (away.size > 0 ? cards.filter((c) => !away.has(c.courseId)) : cards).count()
  const [waiting, over] = await Promise.all([
    count(db.cards.where('waiting').equals(1)),
    count(db.cards.where('until').belowOrEqual(nowInstant())),
  ])
  return waiting + over
}

/** The folders that there are, each with its course. */
export const folderKeys = async (): Promise<{ courseId: string; folder: string }[]> =>
  ((await db.cards.orderBy('[courseId+folder]').uniqueKeys()) as unknown as [string, string][]).map(
    ([courseId, folder]) => ({ courseId, folder }),
  )

/** How many missing cards are written at once. */
const BATCH = 50

/** Writes the cards that are missing: those of lectures that an earlier version kept. */
export async function writeMissingCards(): Promise<void> {
  const known = new Set(await db.cards.toCollection().primaryKeys())
  const missing = (await db.lectures.toCollection().primaryKeys()).filter((id) => !known.has(id))
  // Not each by itself: whatever shows cards looks anew after each transaction.
  for (let i = 0; i < missing.length; i += BATCH)
    await db.transaction('rw', lectureTables(), async () => {
      for (const id of missing.slice(i, i + BATCH)) await writeCard(id)
    })
}
