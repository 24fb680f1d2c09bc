/**
 * Sends out what is being recorded while it is recorded: the recorder's own packets, not encoded again, as fragments of
 * MP4.
 *
 *     picture  K··K··K··K··K··K··       K key frame; a fragment ends at the first one after its least length
 *     sound    ············──────       a track that falls silent, or comes back, begins a further run
 *     runs     ├──1─────────┤├──2
 */
import { max, min } from 'd3-array'
import {
  EncodedAudioPacketSource,
  EncodedVideoPacketSource,
  Mp4OutputFormat,
  NullTarget,
  Output,
  type AudioCodec,
  type EncodedPacket,
  type VideoCodec,
} from 'mediabunny'
import type { ClockPoint } from '#core/record/clock'

export type Bytes = Uint8Array<ArrayBuffer>

export interface BroadcastFeed {
  id: string
  kind: 'screen' | 'camera' | 'sound'
}

export interface BroadcastEvents {
  /**
   * A run begins, with this init segment: what follows does not go on from what came before. `type` is the media type
   * with its codecs (RFC 6381).
   */
  onRun(init: Bytes, type: string): void
  /** The next segment of the run, `duration` s long. */
  onSegment(bytes: Bytes, duration: number): void
  /** What was recorded could not be sent out; a further run is tried. */
  onTrouble(error: unknown): void
}

export interface Broadcaster {
  /** A feed's next packet, in the feed's own time; `config` with its first one, and whenever it changes. */
  packet(
    feedId: string,
    packet: EncodedPacket,
    codec: VideoCodec | AudioCodec,
    config: VideoDecoderConfig | AudioDecoderConfig | undefined,
  ): void
  /** More is known of how a feed's own time stands to the take's clock. */
  clock(feedId: string, points: readonly ClockPoint[]): void
  /** Which picture is sent from its next key frame on. */
  show(feedId: string): void
  /** Sends nothing until `goOn`, and lets go of what was not sent. */
  pause(): void
  goOn(): void
  /** Lets go of what was not sent, and begins a further run. */
  restart(): void
  /** Sends what there is and ends; no event comes after it has resolved. */
  end(): Promise<void>
}

/** Least length of a segment, s. */
const SEGMENT = 1.4
/** A track that gave nothing for this long is left out, s: nothing waits for it. */
const STALLED = 2
/** Clocks of picture and sound that came apart by more than this since the run began begin a further one, s. */
const DRIFT = 0.05

interface Track extends BroadcastFeed {
  codec: VideoCodec | AudioCodec | null
  config: VideoDecoderConfig | AudioDecoderConfig | undefined
  /** How much later the take's clock is than its own time, s; null until it is known. */
  late: number | null
  /** Take's time of its latest packet, s. */
  at: number
}

const join = (parts: readonly Uint8Array[]): Bytes => {
  const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.byteLength, 0))
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.byteLength
  }
  return bytes
}

const typeOf = (tracks: readonly Track[]): string =>
  `${tracks.some((t) => t.kind !== 'sound') ? 'video' : 'audio'}/mp4; codecs="${tracks.map((t) => t.config?.codec ?? '').join(', ')}"`

/**
 * One run: a file of fragments of these tracks, of which the first leads.
 * @param after the end of the run before: nothing is told of this one until then
 */
function beginRun(
  tracks: readonly Track[],
  from: number,
  after: Promise<unknown>,
  events: BroadcastEvents,
  onBroken: (error: unknown) => void,
) {
  const head: Uint8Array[] = []
  let moof: Uint8Array | null = null
  let end = from
  /** Where the next segment begins. */
  let until = from
  /** When key frames of the leading track stand: at one of them the fragment that is being filled will end. */
  const keys: number[] = []
  const format = new Mp4OutputFormat({
    fastStart: 'fragmented',
    minimumFragmentDuration: SEGMENT,
    onFtyp: (data) => void head.push(data.slice()),
    onMoov: (data) => events.onRun(join([...head, data]), typeOf(tracks)),
    onMoof: (data) => {
      moof = data.slice()
    },
    onMdat: (data) => {
      // Sound may begin some ms before the picture does; counted from key frame to key frame nothing adds up.
      while ((keys[0] ?? Infinity) < until + SEGMENT) keys.shift()
      const begins = until
      until = keys[0] ?? end
      events.onSegment(join(moof ? [moof, data] : [data]), Math.max(0.001, until - begins))
    },
  })
  const output = new Output({ format, target: new NullTarget() })
  const sources = tracks.map((track) => {
    if (track.kind === 'sound') {
      const source = new EncodedAudioPacketSource(track.codec as AudioCodec)
      output.addAudioTrack(source)
      return {
        track,
        late: track.late ?? 0,
        add: (packet: EncodedPacket) => source.add(packet, { decoderConfig: track.config as AudioDecoderConfig }),
      }
    }
    const source = new EncodedVideoPacketSource(track.codec as VideoCodec)
    output.addVideoTrack(source)
    return {
      track,
      late: track.late ?? 0,
      add: (packet: EncodedPacket) => source.add(packet, { decoderConfig: track.config as VideoDecoderConfig }),
    }
  })
  let over = false
  let work = after
  /** One after the other; what goes wrong is told once, and nothing more is done. */
  const next = (act: () => Promise<unknown>): Promise<unknown> => {
    work = work
      .then(() => (over ? undefined : act()))
      .catch((error: unknown) => {
        over = true
        onBroken(error)
      })
    return work
  }
  void next(() => output.start())
  return {
    tracks,
    /** Whether picture and sound have come apart since the run began; what makes both late does not matter. */
    hasDrifted() {
      const moved = sources.map(({ track, late }) => (track.late ?? late) - late)
      return (max(moved) ?? -Infinity) - (min(moved) ?? Infinity) > DRIFT
    },
    add(track: Track, packet: EncodedPacket): void {
      const source = sources.find((s) => s.track === track)
      const at = packet.timestamp + (source?.late ?? 0)
      // The first fragment begins with a key frame of the leading track, and nothing before it.
      if (!source || at < from) return
      end = Math.max(end, at + packet.duration)
      if (track === tracks[0] && packet.type === 'key') keys.push(at)
      void next(() => source.add(packet.clone({ timestamp: at })))
    },
    finish: () => next(() => output.finalize()),
    cancel() {
      // What still waits to be added is left out.
      over = true
      work = work.then(() => output.cancel()).catch(onBroken)
      return work
    },
  }
}

/**
 * Begins to send out feeds that are being recorded: one picture, and the first sound.
 * @param shown the feed whose picture is sent; empty for sound alone
 */
export function startBroadcast(feeds: readonly BroadcastFeed[], shown: string, events: BroadcastEvents): Broadcaster {
  const tracks: Track[] = feeds.map((f) => ({ ...f, codec: null, config: undefined, late: null, at: -Infinity }))
  const sound = tracks.find((t) => t.kind === 'sound')
  let picture = tracks.find((t) => t.id === shown && t.kind !== 'sound')
  let run: ReturnType<typeof beginRun> | null = null
  let newest = 0
  let going = true
  let ended: Promise<unknown> = Promise.resolve()

  /** What can be sent now, the leading track first. */
  const alive = () =>
    [picture, sound].filter(
      (t) =>
        t !== undefined && t.codec !== null && t.config !== undefined && t.late !== null && newest - t.at < STALLED,
    ) as Track[]
  const wanted = () => [picture, sound].filter((t) => t !== undefined).length
  const close = (how: 'finish' | 'cancel') => {
    const closing = run
    run = null
    if (closing) ended = closing[how]()
  }

  return {
    packet(feedId, packet, codec, config) {
      const track = tracks.find((t) => t.id === feedId)
      if (!track) return
      track.codec = codec
      if (config) track.config = config
      if (track.late === null) return
      track.at = packet.timestamp + track.late
      newest = Math.max(newest, track.at)
      const now = alive()
      const changed =
        run && (run.hasDrifted() || now.length !== run.tracks.length || now.some((t) => !run?.tracks.includes(t)))
      // A further run begins where its leading track can: until then the one before goes on, as far as it has what it
      // needs.
      const canBegin =
        going && track === now[0] && packet.type === 'key' && (now.length === wanted() || track.at > STALLED)
      if (canBegin && (!run || changed)) {
        close('finish')
        const begun = beginRun(now, track.at, ended, events, (error) => {
          if (run === begun) run = null
          events.onTrouble(error)
        })
        run = begun
      }
      run?.add(track, packet)
    },
    clock(feedId, points) {
      const track = tracks.find((t) => t.id === feedId)
      if (track) track.late = points.at(-1)?.late ?? null
    },
    show(feedId) {
      picture = tracks.find((t) => t.id === feedId && t.kind !== 'sound')
    },
    pause() {
      going = false
      close('cancel')
    },
    goOn() {
      going = true
    },
    restart: () => close('cancel'),
    async end() {
      going = false
      close('finish')
      await ended
    },
  }
}
