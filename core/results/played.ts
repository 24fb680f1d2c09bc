/** Stretches of a lecture that really played, and statements about them (xAPI video profile 1.0.3). */
import { max } from 'd3-array'
import { personKey } from '../course/people'
import {
  activityOf,
  extensions,
  verbs,
  type ReceivedStatement,
  type WatchedSession,
  type WatchStatement,
  type WatchVerb,
} from '../schema/watching'

/** From and to, s of result time. */
export type Stretch = [from: number, to: number]

const thousandths = (x: number) => Math.round(1000 * x) / 1000

/** As the profile writes them: `0[.]12.5[,]30[.]45`. */
export const formatStretches = (stretches: readonly Stretch[]): string =>
  stretches.map(([from, to]) => `${thousandths(from)}[.]${thousandths(to)}`).join('[,]')

/** What does not read as a stretch, or goes backwards, is left out. */
export const parseStretches = (text: string): Stretch[] =>
  text.split('[,]').flatMap((part): Stretch[] => {
    const [from = NaN, to = NaN] = part.split('[.]').map((x) => (x === '' ? NaN : Number(x)))
    return Number.isFinite(from) && to > from ? [[from, to]] : []
  })

/** Without overlaps, in the order of time. */
export function unionOf(stretches: readonly Stretch[]): Stretch[] {
  const made: Stretch[] = []
  for (const [from, to] of [...stretches].sort((a, b) => a[0] - b[0])) {
    const last = made.at(-1)
    if (last && from <= last[1]) last[1] = Math.max(last[1], to)
    else made.push([from, to])
  }
  return made
}

export const lengthOf = (stretches: readonly Stretch[]): number =>
  stretches.reduce((sum, [from, to]) => sum + to - from, 0)

/** Most stretches of a sitting that are told apart; then the shortest gap between two is closed. */
const MOST = 800

/**
 * Follows what plays. A stretch grows while media time goes on no faster than the clock lets it at the present speed;
 * whatever else moves the playhead ends it.
 */
export class PlayedStretches {
  #made: Stretch[] = []
  #open: Stretch | null = null
  /** ms */
  #at = 0

  constructor(made: readonly Stretch[] = []) {
    this.#made = made.map(([from, to]): Stretch => [from, to])
  }

  /** @param now a clock that never goes back, ms */
  begin(time: number, now: number): void {
    this.end()
    this.#open = [time, time]
    this.#at = now
  }

  /** @param speed of playing, times */
  go(time: number, now: number, speed: number): void {
    const open = this.#open
    if (!open) return
    const [, before] = open
    // A clock and a decoder are never quite together.
    const most = ((now - this.#at) / 1000) * speed * 1.2 + 0.5
    if (time < before - 0.05 || time - before > most) this.begin(time, now)
    else {
      open[1] = Math.max(before, time)
      this.#at = now
    }
  }

  /** What played last ends here, when it played at all. */
  end(): void {
    const open = this.#open
    this.#open = null
    if (!open || open[1] - open[0] < 0.1) return
    const last = this.#made.at(-1)
    // Paused and gone on.
    if (last && Math.abs(last[1] - open[0]) < 0.25) last[1] = open[1]
    else this.#made.push(open)
    if (this.#made.length > MOST) this.#made.splice(0, 2, ...joined(this.#made.slice(0, 2)))
  }

  /** In the order of playing, what plays now last. */
  all(): Stretch[] {
    const open = this.#open
    const all = this.#made.map(([from, to]): Stretch => [from, to])
    if (open && open[1] - open[0] >= 0.1) all.push([open[0], open[1]])
    return all
  }
}
const joined = (two: readonly Stretch[]): Stretch[] => {
  const [a, b] = two
  return a && b ? [[Math.min(a[0], b[0]), Math.max(a[1], b[1])]] : [...two]
}

/** What a sitting's statements have alike. */
export interface Sitting {
  placeId: string
  /** Of the publication. */
  version: string
  /** Length of the result, s. */
  length: number
  session: string
}

export function watchStatement(
  { placeId, version, length, session }: Sitting,
  verb: WatchVerb,
  result: { time?: number; from?: number; to?: number; played?: readonly Stretch[] },
  { id, at }: { id: string; at: string },
): WatchStatement {
  const { played } = result
  const time = (x: number) => thousandths(Math.min(86_400, Math.max(0, x)))
  return {
    ...{ id, timestamp: at, verb: { id: verbs[verb] } },
    object: {
      id: activityOf(placeId),
      definition: { type: 'https://w3id.org/xapi/video/activity-type/video' },
    },
    ...(verb !== 'initialized' && {
      result: {
        ...(verb === 'completed' && { completion: true }),
        extensions: {
          ...(result.time !== undefined && { [extensions.time]: time(result.time) }),
          ...(result.from !== undefined && { [extensions.timeFrom]: time(result.from) }),
          ...(result.to !== undefined && { [extensions.timeTo]: time(result.to) }),
          ...(played && {
            [extensions.segments]: formatStretches(played),
            [extensions.progress]: length > 0 ? thousandths(Math.min(1, lengthOf(unionOf(played)) / length)) : 0,
          }),
        },
      },
    }),
    context: {
      contextActivities: { category: [{ id: 'https://w3id.org/xapi/video' }] },
      extensions: { [extensions.session]: session, [extensions.length]: time(length), [extensions.version]: version },
    },
  }
}

const playedIn = ({ result }: WatchStatement): Stretch[] | null => {
  const text = result?.extensions[extensions.segments]
  return text === undefined ? null : parseStretches(text)
}

type Stored = ReceivedStatement & { seq: number }

/** A sitting is told by whose it is too: nobody changes another's by knowing its session. */
const sittingOf = ({ student, statement }: Stored): string =>
  `${statement.context.extensions[extensions.session]} ${student ? personKey(student) : ''}`

const bySeq = (a: Stored, b: Stored) => a.seq - b.seq

/** Sittings that statements are about, each as its last one has it. @param statements as stored, in any order */
export function sessionsOf(statements: readonly Stored[]): WatchedSession[] {
  const sessions = new Map<string, WatchedSession>()
  for (const stored of [...statements].sort(bySeq)) {
    const { seq, receivedAt, student, statement } = stored
    const { extensions: context } = statement.context
    const session = context[extensions.session]
    const version = context[extensions.version]
    const played = playedIn(statement)
    const key = sittingOf(stored)
    const known = sessions.get(key) ?? {
      ...{ seq, session, student: student ?? null, version, from: receivedAt, until: receivedAt },
      ...{ played: [], reached: [] },
    }
    sessions.set(key, known)
    Object.assign(known, { seq, until: receivedAt })
    if (!played) continue
    // One that was on its way for longer than the next says less.
    if (lengthOf(played) >= lengthOf(known.played)) known.played = played
    const farthest = farthestOf(played)
    if (farthest > (known.reached.at(-1)?.[1] ?? 0)) known.reached.push([receivedAt, farthest])
  }
  return [...sessions.values()]
}

const farthestOf = (played: readonly Stretch[]): number => max(played, ([, to]) => to) ?? 0

/** The farthest instant that statements say was watched, s; 0 when they say of none. */
export const reachedIn = (statements: readonly ReceivedStatement[]): number =>
  max(statements, ({ statement }) => farthestOf(playedIn(statement) ?? [])) ?? 0

/** How many of the times that a sitting came farther than before are kept of it. */
const STEPS = 6

/**
 * The few statements of each sitting that say what all of them say: its first and its last, where it stood last, what
 * played in all, that it was seen to the end, and some of the times at which it had come farther.
 * @param statements as stored, in any order @returns in the order of `seq`
 */
export function foldStatements<S extends Stored>(statements: readonly S[]): S[] {
  const sittings = new Map<string, S[]>()
  for (const stored of [...statements].sort(bySeq)) {
    const key = sittingOf(stored)
    const own = sittings.get(key)
    if (own) own.push(stored)
    else sittings.set(key, [stored])
  }
  const kept = new Set<S | undefined>()
  for (const own of sittings.values()) {
    const steps: S[] = []
    let [longest, length, farthest]: [S | undefined, number, number] = [undefined, -1, 0]
    for (const stored of own) {
      const played = playedIn(stored.statement)
      if (!played) continue
      if (lengthOf(played) >= length) [longest, length] = [stored, lengthOf(played)]
      if (farthestOf(played) <= farthest) continue
      farthest = farthestOf(played)
      steps.push(stored)
    }
    const every = Math.max(1, Math.ceil(steps.length / STEPS))
    for (const [i, stored] of steps.entries()) if ((steps.length - 1 - i) % every === 0) kept.add(stored)
    kept.add(own[0]).add(own.at(-1)).add(longest)
    kept.add(own.findLast(({ statement }) => statement.result?.extensions[extensions.time] !== undefined))
    kept.add(own.find(({ statement }) => statement.result?.completion))
  }
  return [...sittings.values()]
    .flat()
    .filter((s) => kept.has(s))
    .sort(bySeq)
}
