/**
 * A recording from its first chunk to its last. Every chunk is in the database before the next is taken, and the
 * take's row always says what is there, so that a dead tab loses no more than the chunk that was under way.
 */
import { db } from '~/db/database'
import { appendChunk, StorageFull } from '~/db/files'
import type { Broadcaster, BroadcastFeed } from '#media/broadcast'
import { cropOf, startRecorder, type FeedHealth, type Recorder, type RecorderFeed } from '#media/recorder'
import type { ShareBox, Stroke } from '#core/schema/edit'
import { withIds } from '#core/record/recording'
import type { Feed, Take } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import { changeLecture } from './cards'
import { newId, nowInstant } from './ids'
import { RECORDING, takeLock } from './takes'

/** One input chosen for a recording. */
export interface Source {
  kind: Feed['kind']
  label: string
  track: MediaStreamTrack
  frameRate: number
  /** Bits per second. */
  bitrate: number
  /** The part of a picture that is recorded; null for all of it. */
  area: ShareBox | null
  /** How much louder a sound is recorded, as a factor. */
  gain: () => number
}

/** A feed of the take that is being recorded. */
export interface LiveFeed extends BroadcastFeed {
  label: string
}

/** A recording, as far as those are concerned who watch it live. */
export interface LiveOut {
  /** A take begins; null when nobody can watch it. */
  begin(feeds: readonly LiveFeed[]): Broadcaster | null
  paused(): void
  ended(): void
}

export interface LiveTake {
  takeId: string
  /** Seconds of recorded time up to now. */
  now(): number
  /** How each feed does, with its name. */
  health(): (FeedHealth & { label: string })[]
  /** Marks this moment, to be looked at later. */
  mark(): Promise<number>
  /** Another slide is shown. */
  slide(title: string): Promise<void>
  /** Keeps what is drawn over the screen, all of it up to now. */
  draw(strokes: readonly Stroke[]): Promise<void>
  /** Folds what follows until `resume`; the recorder keeps rolling, so nothing said is lost. */
  pause(): Promise<void>
  resume(): Promise<void>
  /** Ends the recording; everything is kept. */
  stop(): Promise<Take>
  /** Lets go of the take: from now on it may be made whole, here or, if this page is closed, at the next start. */
  release(): void
}

/**
 * Starts recording into a lecture.
 * @param onTrouble a feed broke; the others go on
 * @param onFull nothing more can be stored: the recording has to be stopped now
 * @param live who may watch it meanwhile
 */
export async function startTake(
  lectureId: string,
  sources: readonly Source[],
  onTrouble: (says: string) => void,
  onFull: () => void,
  live: LiveOut,
): Promise<LiveTake> {
  const takeId = newId()
  const feeds: Feed[] = withIds(sources).map((s) => {
    const full = s.kind === 'sound' ? {} : s.track.getSettings()
    const { width = 0, height = 0 } =
      s.area && full.width && full.height ? cropOf(s.area, full.width, full.height) : full
    return {
      id: s.id,
      kind: s.kind,
      label: s.label,
      fileId: newId(),
      offset: 0,
      duration: 0,
      width,
      height,
      frameRate: s.frameRate,
    }
  })
  const take: Take = {
    id: takeId,
    lectureId,
    state: 'recording',
    startedAt: nowInstant(),
    duration: 0,
    feeds,
    pauses: [],
    note: '',
  }
  const counts = new Map<string, number>()
  const save = () => db.takes.put({ ...take, feeds: [...take.feeds], pauses: [...take.pauses] })

  let release: () => void = () => undefined
  await new Promise<void>((held) => {
    void navigator.locks.request(takeLock(takeId), () => {
      held()
      return new Promise<void>((done) => {
        release = done
      })
    })
  })
  let leaveAlone: () => void = () => undefined
  const ended = new Promise<void>((done) => {
    leaveAlone = done
  })
  // Not waited for: whoever waits for the end of a recording in another tab must not keep this one from beginning.
  void navigator.locks.request(RECORDING, { mode: 'shared' }, () => ended)
  let recorder: Recorder
  const broadcaster = live.begin(feeds.map(({ fileId, kind, label }) => ({ id: fileId, kind, label })))
  try {
    await changeLecture(lectureId, save)
    recorder = await startRecorder(
      sources.map((s, i): RecorderFeed => ({
        id: feeds[i]?.fileId ?? '',
        kind: s.kind,
        track: s.track,
        frameRate: s.frameRate,
        bitrate: s.bitrate,
        area: s.area,
        gain: s.gain,
      })),
      {
        async onChunk(fileId, chunk) {
          const seq = counts.get(fileId) ?? 0
          counts.set(fileId, seq + 1)
          await appendChunk(fileId, seq, chunk)
        },
        onClock(fileId, points) {
          const feed = take.feeds.find((f) => f.fileId === fileId)
          if (!feed) return
          feed.offset = Math.round(1000 * (points[0]?.late ?? 0)) / 1000
          feed.clock = [...points]
          broadcaster?.clock(fileId, points)
          void save()
        },
        onPacket: (fileId, packet, codec, config) => broadcaster?.packet(fileId, packet, codec, config),
        onTrouble(fileId, error) {
          if (error instanceof StorageFull) {
            onFull()
            return
          }
          const feed = take.feeds.find((f) => f.fileId === fileId)
          const says = `${feed?.label ?? 'A feed'} stopped: ${errorMessage(error)} The others go on.`
          // The same trouble comes again from the encoder and at the end.
          if (take.note.includes(says)) return
          take.note = [take.note, says].filter(Boolean).join(' ').slice(0, 1000)
          void save()
          onTrouble(says)
        },
      },
    )
  } catch (error) {
    await changeLecture(lectureId, () => db.takes.delete(takeId))
    release()
    leaveAlone()
    throw error
  }
  /** Seconds of recorded time. */
  const now = () => (performance.now() - recorder.zero) / 1000
  const resume = async () => {
    const open = take.pauses.find((p) => p.to === null)
    if (open) open.to = now()
    await save()
  }
  return {
    takeId,
    now,
    health: () =>
      recorder.health().map((h) => ({ ...h, label: take.feeds.find((f) => f.fileId === h.feedId)?.label ?? '' })),
    async mark() {
      const at = now()
      take.markers = [...(take.markers ?? []), at]
      await save()
      return at
    },
    async slide(title) {
      take.slides = [...(take.slides ?? []), { at: now(), title: title.slice(0, 300) }]
      await save()
    },
    async draw(strokes) {
      take.strokes = [...strokes]
      await save()
    },
    async pause() {
      broadcaster?.pause()
      take.pauses.push({ from: now(), to: null })
      await save()
    },
    async resume() {
      await resume()
      broadcaster?.goOn()
    },
    async stop() {
      await recorder.stop()
      await broadcaster?.end()
      leaveAlone()
      await resume()
      take.state = 'settling'
      await save()
      return take
    },
    release() {
      release()
    },
  }
}
