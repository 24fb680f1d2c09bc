/**
 * Who watched how much of a lecture, and which parts: in the time of its present edit, whatever edit was watched. What
 * was watched is found in the recording by the map of the version that it was, and from there in the present result.
 */
import { max } from 'd3-array'
import { personKey } from '../course/people'
import type { Student } from '../schema/attempt'
import type { WatchedSession, WatchedVersion } from '../schema/watching'
import { projectRange, type TimeMap } from '../time/time-map'
import { recorded } from '../time/units'
import type { PlaceHistory } from './history'
import { lengthOf, unionOf, type Stretch } from './played'

export interface WatchedPlace {
  sessions: readonly WatchedSession[]
  versions: readonly WatchedVersion[]
}

export interface StudentWatching {
  student: Student
  /** s of the present result that played at least once, and the share of all of it that was recorded. */
  seconds: number
  share: number
  /** s that played in all, again included. */
  total: number
  sittings: number
  /** When something of it came last, ISO 8601. */
  lastAt: string
  /** Stretches of the present result that played at least once. */
  once: Stretch[]
}

/** A piece of the present result. */
export interface CurvePoint {
  /** s */
  from: number
  to: number
  /** How many people watched it at all, on average over what of it was recorded; null where nothing of it was. */
  people: number | null
  /** How often it played, likewise. */
  plays: number | null
}

export interface LectureWatching {
  students: StudentWatching[]
  curve: CurvePoint[]
  /** Where people stopped who did not see the end, by the pieces of the curve. */
  left: number[]
  /** By day (UTC), in order: people and hours. */
  days: { day: string; people: number; hours: number }[]
  /** s that played and are not in the present result any more, or cannot be placed; what was put in does not count. */
  elsewhere: number
  /** Whether some of it is known of all together only. */
  sums: boolean
}

/** What of the recording was watched, by stretches of a version of the result; what was put in is left out. */
const recordedStretches = (played: readonly Stretch[], kept: WatchedVersion['kept']): Stretch[] =>
  played.flatMap(([from, to]) =>
    (kept ?? []).flatMap((k): Stretch[] => {
      const [a, b] = [Math.max(from, k.at), Math.min(to, k.at + k.to - k.from)]
      return b > a ? [[k.from + a - k.at, k.from + b - k.at]] : []
    }),
  )

/** Where stretches of the recording stand in the present result; what is taken out is left out. */
const placeStretches = (stretches: readonly Stretch[], map: TimeMap): Stretch[] =>
  stretches.flatMap(([from, to]) =>
    projectRange(map, { from: recorded(from), to: recorded(to) }).pieces.map((p): Stretch => [p.from, p.to]),
  )

/** Adds to each piece how much of it a stretch covers, 0…1. */
function cover(pieces: Float64Array, length: number, [from, to]: Stretch): void {
  const size = length / pieces.length
  for (let i = Math.max(0, Math.floor(from / size)); i < pieces.length && i * size < to; i++)
    pieces[i] = (pieces[i] ?? 0) + Math.max(0, Math.min(to, (i + 1) * size) - Math.max(from, i * size)) / size
}

/**
 * @param map of the present edit
 * @param pieces that the curve has
 */
export function computeWatching({ sessions, versions }: WatchedPlace, map: TimeMap, pieces = 200): LectureWatching {
  const known = new Map(versions.map((v) => [v.version, v]))
  const { length } = map
  const kept = map.kept.map((k): Stretch => [k.at, k.at + k.to - k.from])
  const [all, end] = [lengthOf(kept), kept.at(-1)?.[1] ?? 0]
  const [people, plays, there] = [new Float64Array(pieces), new Float64Array(pieces), new Float64Array(pieces)]
  for (const stretch of kept) cover(there, length, stretch)
  const left = Array.from({ length: pieces }, () => 0)
  const byStudent = new Map<string, { student: Student; sessions: WatchedSession[]; played: Stretch[] }>()
  const days = new Map<string, { people: Set<string>; seconds: number }>()
  let elsewhere = 0
  for (const session of sessions) {
    const version = known.get(session.version)
    const watched = version?.kept ? recordedStretches(session.played, version.kept) : session.played
    const placed = version?.kept ? placeStretches(watched, map) : []
    elsewhere += Math.max(0, lengthOf(watched) - lengthOf(placed))
    for (const stretch of placed) cover(plays, length, stretch)
    const who = session.student ? personKey(session.student) : session.session
    const day = days.get(session.until.slice(0, 10)) ?? { people: new Set<string>(), seconds: 0 }
    days.set(session.until.slice(0, 10), day)
    day.people.add(who)
    day.seconds += lengthOf(session.played)
    if (!session.student) continue
    const own = byStudent.get(who) ?? { student: session.student, sessions: [], played: [] }
    byStudent.set(who, own)
    own.sessions.push(session)
    own.played.push(...placed)
  }
  /** Of a piece that is recorded in part only, what is said of that part. */
  const within = (pieces: Float64Array, i: number) =>
    (there[i] ?? 0) > 0.01 ? (pieces[i] ?? 0) / (there[i] ?? 1) : null
  const pieceOf = (at: number) => Math.min(pieces - 1, Math.floor((at / length) * pieces))
  const students = [...byStudent.values()].map(({ student, sessions, played }): StudentWatching => {
    const once = unionOf(played)
    const seconds = lengthOf(once)
    for (const stretch of once) cover(people, length, stretch)
    const farthest = once.at(-1)?.[1] ?? 0
    // The last seconds are often left away.
    if (once.length > 0 && farthest < end - Math.max(5, 0.02 * all))
      left[pieceOf(farthest)] = (left[pieceOf(farthest)] ?? 0) + 1
    return {
      ...{ student, seconds, once, total: lengthOf(played), sittings: sessions.length },
      share: all > 0 ? Math.min(1, seconds / all) : 0,
      lastAt: sessions.reduce((last, s) => (s.until > last ? s.until : last), ''),
    }
  })
  return {
    ...{ students, left, elsewhere, sums: sessions.some((s) => !s.student) },
    curve: Array.from({ length: pieces }, (_, i) => ({
      ...{ from: (i * length) / pieces, to: ((i + 1) * length) / pieces },
      ...{ people: within(people, i), plays: within(plays, i) },
    })),
    days: [...days]
      .map(([day, { people, seconds }]) => ({ day, people: people.size, hours: seconds / 3600 }))
      .sort((a, b) => (a.day < b.day ? -1 : 1)),
  }
}

/** s by which reported watching may lag behind an answer, of the lecture and of the clock. */
const [SHORT_OF, LATER] = [5, 120]

/** An answer that came before reported watching had reached its question, though jumping ahead is not allowed. */
export interface UnreachedAnswer {
  student: Student
  questionId: string
  /** Of the event. */
  id: string
  /** s of the result that was watched: where the question stands, and how far watching had come. */
  at: number
  reached: number
}

/**
 * Answers that the reported watching cannot have reached, of sets that forbid jumping ahead. Nothing can be told of
 * places that keep sums only.
 * @param events as stored
 */
export function unreachedAnswers(
  { sets, events }: Pick<PlaceHistory, 'sets' | 'events'>,
  sessions: readonly WatchedSession[],
): UnreachedAnswer[] {
  const strict = new Map(
    sets
      .filter((s) => !s.policy.ahead)
      .map((s) => [s.version, new Map(s.checkpoints.flatMap((c) => c.questions.map((q) => [q.id, c.at] as const)))]),
  )
  const own = new Map<string, WatchedSession[]>()
  for (const session of sessions) {
    if (!session.student) return []
    const key = personKey(session.student)
    own.set(key, [...(own.get(key) ?? []), session])
  }
  return events.flatMap(({ event, receivedAt, student }): UnreachedAnswer[] => {
    if (event.kind !== 'answer') return []
    const at = strict.get(event.version ?? '')?.get(event.questionId)
    if (at === undefined) return []
    const latest = Date.parse(receivedAt) + 1000 * LATER
    const told = (own.get(personKey(student)) ?? []).flatMap((s) => s.reached.filter(([t]) => Date.parse(t) <= latest))
    const reached = max(told, ([, seconds]) => seconds) ?? 0
    return reached >= at - SHORT_OF ? [] : [{ student, questionId: event.questionId, id: event.id, at, reached }]
  })
}
