/**
 * A recording from its first chunk to its last. Every chunk is in the database before the next is taken, and the
 * take's row always says what is there, so that a dead tab loses no more than the chunk that was under way.
 */
import { db } from '~/db/database'
import { appendChunk } from '~/db/files'
import { startRecorder, type Recorder, type RecorderFeed } from '#media/recorder'
import type { Feed, Take } from '#core/schema/lecture'
import { newId, nowInstant } from './ids'
import { takeLock } from './takes'

/** One input chosen for a recording. */
export interface Source {
  kind: Feed['kind']
  label: string
  track: MediaStreamTrack
  frameRate: number
  /** Bits per second. */
  bitrate: number
}

export interface LiveTake {
  takeId: string
  /** Bytes kept so far. */
  bytes(): number
  /** Folds what follows until `resume`; the recorder keeps rolling, so nothing said is lost. */
  pause(): Promise<void>
  resume(): Promise<void>
  /** Ends the recording; everything is kept. */
  stop(): Promise<Take>
}

/**
 * Starts recording into a lecture.
 * @param onTrouble a feed broke; the others go on
 */
export async function startTake(lectureId: string, sources: readonly Source[], onTrouble: (says: string) => void): Promise<LiveTake> {
  const takeId = newId()
  const feeds: Feed[] = sources.map((s) => {
    const { width = 0, height = 0 } = s.kind === 'sound' ? {} : s.track.getSettings()
    return { kind: s.kind, label: s.label, fileId: newId(), offset: 0, duration: 0, width, height, frameRate: s.frameRate }
  })
  const take: Take = { id: takeId, lectureId, state: 'recording', startedAt: nowInstant(), duration: 0, feeds, pauses: [], note: '' }
  let bytes = 0
  const counts = new Map<string, number>()
  const save = () => db.takes.put({ ...take, feeds: [...take.feeds], pauses: [...take.pauses] })

  let release: () => void = () => undefined
  await new Promise<void>((held) => {
    void navigator.locks.request(takeLock(takeId), () => {
      held()
      return new Promise<void>((done) => { release = done })
    })
  })
  let recorder: Recorder
  try {
    await save()
    recorder = await startRecorder(
      sources.map((s, i): RecorderFeed => ({ id: feeds[i]?.fileId ?? '', kind: s.kind, track: s.track, frameRate: s.frameRate, bitrate: s.bitrate })),
      {
        async onChunk(fileId, chunk) {
          const seq = counts.get(fileId) ?? 0
          counts.set(fileId, seq + 1)
          await appendChunk(fileId, seq, chunk)
          bytes += chunk.byteLength
        },
        onOffset(fileId, offset) {
          const feed = take.feeds.find((f) => f.fileId === fileId)
          if (feed) feed.offset = Math.round(offset * 1000) / 1000
          void save()
        },
        onTrouble(fileId, error) {
          const feed = take.feeds.find((f) => f.fileId === fileId)
          const says = `${feed?.label ?? 'A feed'} stopped: ${error instanceof Error ? error.message : String(error)} The others go on.`
          // The same trouble comes again from the encoder and at the end.
          if (take.note.includes(says)) return
          take.note = [take.note, says].filter(Boolean).join(' ').slice(0, 1000)
          void save()
          onTrouble(says)
        },
      },
    )
  } catch (error) {
    await db.takes.delete(takeId)
    release()
    throw error
  }
  sources.forEach((s) => s.track.addEventListener('ended', () => onTrouble(`${s.label} was switched off. What it gave so far is kept; the others go on.`)))
  /** Seconds of recorded time. */
  const now = () => (performance.now() - recorder.zero) / 1000
  const resume = async () => {
    const open = take.pauses.find((p) => p.to === null)
    if (open) open.to = now()
    await save()
  }
  return {
    takeId,
    bytes: () => bytes,
    async pause() {
      take.pauses.push({ from: now(), to: null })
      await save()
    },
    resume,
    async stop() {
      await recorder.stop()
      await resume()
      take.state = 'settling'
      await save()
      release()
      return take
    },
  }
}
