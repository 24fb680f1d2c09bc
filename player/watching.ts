/**
 * Reports what really played, as statements (xAPI video profile): kept on this device until the server has them, so that
 * a closed tab or a lost connection loses none. It is fetched when playing begins.
 */
import { PlayedStretches, watchStatement, type Sitting, type Stretch } from '#core/results/played'
import { extensions, type WatchStatement, type WatchVerb } from '#core/schema/watching'
import { Refused } from './gateway'

export interface WatchingPorts {
  storage: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
  key: string
  sitting: Omit<Sitting, 'session'>
  /** Whether nothing may tie one report to another: each says what played since the one before. */
  sumsOnly: boolean
  send(statements: readonly WatchStatement[]): Promise<void>
  /** ms since 1970, and of a clock that never goes back. */
  now(): number
  clock(): number
  id(): string
  /** Calls back after `ms`. */
  later(ms: number, run: () => void): void
}

interface Kept {
  waiting: WatchStatement[]
  /** What plays in a tab, by its sitting; when its tab is gone, another one reports it. */
  open: Record<string, { sitting: Sitting; played: Stretch[]; time: number; at: number }>
}

/** Statements that wait on this device at most; then those that say least go first. */
const MOST_WAITING = 400
const BATCH = 30
/** Characters of them; then of each sitting only the last says what played. */
const MOST_TEXT = 300_000
/** ms */
const [SOON, RETRY, TAKE_DOWN, LEFT] = [8000, 30_000, 5000, 60_000]

export class Watching {
  #played = new PlayedStretches()
  #sitting: Sitting
  #speed = 1
  #isPlaying = false
  #hasBegun = false
  #isComplete = false
  #seekFrom: number | null = null
  #time = 0
  #takenDown = 0
  #planned = false
  #sending: Promise<void> | null = null
  /** Where this device keeps nothing. */
  #unkept: Kept | null = null

  constructor(private readonly ports: WatchingPorts) {
    this.#sitting = { ...ports.sitting, session: ports.id() }
    this.#reportLeft()
    if (this.#read().waiting.length > 0) this.#plan(0)
  }

  #read(): Kept {
    if (this.#unkept) return this.#unkept
    try {
      const kept = JSON.parse(this.ports.storage.getItem(this.ports.key) ?? '') as Partial<Kept>
      return { waiting: kept.waiting ?? [], open: kept.open ?? {} }
    } catch {
      // Nothing is there yet, or a torn write that cannot be sent.
      return { waiting: [], open: {} }
    }
  }
  #write(kept: Kept): void {
    let { waiting } = kept
    if (waiting.length > MOST_WAITING) {
      const spare = waiting.filter((s) => !s.result?.extensions || /played$|seeked$/.test(s.verb.id))
      const gone = new Set(spare.slice(0, waiting.length - MOST_WAITING))
      waiting = waiting.filter((s) => !gone.has(s)).slice(-MOST_WAITING)
    }
    let text = JSON.stringify({ ...kept, waiting })
    if (text.length > MOST_TEXT) {
      const telling = waiting.filter((s) => s.result?.extensions[extensions.segments] !== undefined)
      const lasts = new Map(telling.map((s) => [s.context.extensions[extensions.session], s]))
      waiting = [...lasts.values()]
      text = JSON.stringify({ ...kept, waiting })
    }
    const next = { ...kept, waiting }
    try {
      const isEmpty = waiting.length === 0 && Object.keys(kept.open).length === 0
      if (isEmpty) this.ports.storage.removeItem(this.ports.key)
      else this.ports.storage.setItem(this.ports.key, text)
      this.#unkept = null
    } catch {
      // A full device: it is held by the page.
      this.#unkept = next
    }
  }

  /** What a tab that is gone did not come to report. */
  #reportLeft(): void {
    const kept = this.#read()
    const now = this.ports.now()
    for (const [session, { sitting, played, time, at }] of Object.entries(kept.open)) {
      if (now - at < LEFT) continue
      kept.waiting.push(this.#statement(sitting, 'terminated', { time, played }, at))
      delete kept.open[session]
    }
    this.#write(kept)
  }

  #statement = (sitting: Sitting, verb: WatchVerb, result: Parameters<typeof watchStatement>[2], at: number) =>
    watchStatement(sitting, verb, result, { id: this.ports.id(), at: new Date(at).toISOString() })

  #say(verb: WatchVerb, result: Parameters<typeof watchStatement>[2]): void {
    if (this.ports.sumsOnly && !result.played?.length) return
    const kept = this.#read()
    kept.waiting.push(this.#statement(this.#sitting, verb, result, this.ports.now()))
    delete kept.open[this.#sitting.session]
    this.#write(kept)
    if (this.ports.sumsOnly) {
      // The next one is of nobody that is known from this.
      this.#played = new PlayedStretches()
      this.#sitting = { ...this.#sitting, session: this.ports.id() }
    }
    this.#plan(SOON)
  }

  play(time: number, speed: number): void {
    this.#seekFrom = null
    if (this.#isPlaying) {
      // It only waited for the network.
      this.#played.begin(time, this.ports.clock())
      return
    }
    if (!this.#hasBegun) this.#say('initialized', {})
    this.#hasBegun = this.#isPlaying = true
    this.#speed = speed
    this.#time = time
    this.#played.begin(time, this.ports.clock())
    this.#say('played', { time })
  }

  /** While it plays, a few times a second. */
  go(time: number, speed: number): void {
    if (!this.#isPlaying) return
    this.#speed = speed
    this.#time = time
    this.#played.go(time, this.ports.clock(), this.#speed)
    if (this.ports.clock() - this.#takenDown < TAKE_DOWN) return
    this.#takenDown = this.ports.clock()
    const kept = this.#read()
    const { session } = this.#sitting
    kept.open[session] = { sitting: this.#sitting, played: this.#played.all(), time, at: this.ports.now() }
    this.#write(kept)
  }

  pause(time: number): void {
    if (!this.#isPlaying) return
    this.#isPlaying = false
    this.#played.go(time, this.ports.clock(), this.#speed)
    this.#played.end()
    this.#say('paused', { time, played: this.#played.all() })
  }

  /** The playhead leaves where it is. */
  seeking(): void {
    this.#seekFrom ??= this.#time
    this.#played.end()
  }
  seeked(time: number): void {
    const from = this.#seekFrom
    this.#seekFrom = null
    this.#time = time
    if (this.#isPlaying) this.#played.begin(time, this.ports.clock())
    if (from !== null && this.#hasBegun && Math.abs(from - time) > 1) this.#say('seeked', { from, to: time })
  }

  end(time: number): void {
    this.pause(time)
    if (this.#isComplete || this.ports.sumsOnly) return
    this.#isComplete = true
    this.#say('completed', { time, played: this.#played.all() })
  }

  /** The page is closed, or put away: what plays is said, and all that waits is sent. */
  leave(isOver: boolean): void {
    if (this.#isPlaying) {
      this.#played.go(this.#time, this.ports.clock(), this.#speed)
      if (isOver) this.#say('terminated', { time: this.#time, played: this.#played.all() })
    }
    void this.flush()
  }

  #plan(ms: number): void {
    if (this.#planned) return
    this.#planned = true
    // Not all of a class at once, when a question stops them together.
    this.ports.later(ms * (0.75 + Math.random() / 2), () => {
      this.#planned = false
      void this.flush()
    })
  }

  /** Sends what waits; whoever calls again meanwhile gets the same. */
  flush(): Promise<void> {
    return (this.#sending ??= this.#sendAll().finally(() => {
      this.#sending = null
    }))
  }
  async #sendAll(): Promise<void> {
    for (
      let batch = this.#read().waiting.slice(0, BATCH);
      batch.length > 0;
      batch = this.#read().waiting.slice(0, BATCH)
    ) {
      try {
        await this.ports.send(batch)
      } catch (error) {
        if (!(error instanceof Refused && error.final)) {
          this.#plan(RETRY)
          return
        }
        console.warn('what was watched is not taken', error)
      }
      const sent = new Set(batch.map((s) => s.id))
      const kept = this.#read()
      this.#write({ ...kept, waiting: kept.waiting.filter((s) => !sent.has(s.id)) })
    }
  }
}

/** Follows a film for as long as the page is there. @returns sends what there is to say so far */
export function followFilm(
  film: HTMLVideoElement,
  ports: Omit<WatchingPorts, 'now' | 'clock' | 'id' | 'later'>,
): Watching {
  const watching = new Watching({
    ...ports,
    now: () => Date.now(),
    clock: () => performance.now(),
    id: () => crypto.randomUUID(),
    later: (ms, run) => void setTimeout(run, ms),
  })
  const on = (name: string, act: () => void) => film.addEventListener(name, act)
  on('playing', () => watching.play(film.currentTime, film.playbackRate))
  on('timeupdate', () => watching.go(film.currentTime, film.playbackRate))
  on('pause', () => (film.ended ? watching.end(film.currentTime) : watching.pause(film.currentTime)))
  on('seeking', () => watching.seeking())
  on('seeked', () => watching.seeked(film.currentTime))
  on('ended', () => watching.end(film.currentTime))
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') watching.leave(false)
  })
  window.addEventListener('pagehide', () => watching.leave(true))
  window.addEventListener('online', () => void watching.flush())
  if (!film.paused) watching.play(film.currentTime, film.playbackRate)
  return watching
}
