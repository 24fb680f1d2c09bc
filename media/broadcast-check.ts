/**
 * Plays what goes out, unseen and unheard, at the beginning of each run: what this browser cannot play, those of students
 * cannot either, and nobody would tell.
 */
import type { Bytes } from './broadcast'

/** From the first segment of a run on, something has to play within this, ms. */
const PATIENCE = 10_000

export interface BroadcastCheck {
  /** A run begins. @param type media type with codecs (RFC 6381) */
  run(init: Bytes, type: string): void
  segment(bytes: Bytes): void
  end(): void
}

/** @param onTrouble told once for a run, with a sentence */
export function checkBroadcast(onTrouble: (says: string) => void): BroadcastCheck {
  let check: { feed(bytes: Bytes): void; end(): void } | null = null
  const end = () => {
    check?.end()
    check = null
  }
  return {
    run(init, type) {
      end()
      // What cannot be tried here may well play elsewhere.
      if (!('MediaSource' in globalThis) || !MediaSource.isTypeSupported(type)) return
      check = playRun(init, type, onTrouble)
    },
    segment: (bytes) => check?.feed(bytes),
    end,
  }
}

function playRun(init: Bytes, type: string, onTrouble: (says: string) => void) {
  const film = document.createElement('video')
  film.muted = true
  const source = new MediaSource()
  const url = URL.createObjectURL(source)
  const queue: Bytes[] = [init]
  let buffer: SourceBuffer | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  let over = false

  const end = () => {
    if (over) return
    over = true
    clearTimeout(timer)
    film.removeAttribute('src')
    film.load()
    URL.revokeObjectURL(url)
  }
  const fail = (why: string) => {
    if (over) return
    end()
    onTrouble(`Students cannot play what goes out: ${why}. The recording goes on and is kept.`)
  }
  /** Hands on the next piece, one after the other as the buffer takes them. */
  const pump = () => {
    const next = buffer && !buffer.updating ? queue.shift() : undefined
    if (!next || over) return
    try {
      buffer?.appendBuffer(next)
    } catch (error) {
      fail(error instanceof Error ? error.message : String(error))
    }
  }
  source.addEventListener('sourceopen', () => {
    try {
      buffer = source.addSourceBuffer(type)
    } catch (error) {
      fail(error instanceof Error ? error.message : String(error))
      return
    }
    buffer.addEventListener('updateend', () => {
      // A run begins at some time of the lecture, not at 0.
      if (film.buffered.length > 0 && film.currentTime < film.buffered.start(0))
        film.currentTime = film.buffered.start(0) + 0.01
      if (film.buffered.length > 0 && film.paused) void film.play().catch(() => undefined)
      pump()
    })
    pump()
  })
  film.addEventListener('error', () => fail(film.error?.message || 'it cannot be decoded'))
  // It plays: that is all there was to know.
  film.addEventListener('timeupdate', () => {
    if (film.buffered.length > 0 && film.currentTime > film.buffered.start(0) + 0.2) end()
  })
  film.src = url
  return {
    feed(bytes: Bytes) {
      if (over) return
      queue.push(bytes)
      // A page that is not looked at may not play at all.
      timer ??= setTimeout(() => (document.hidden ? end() : fail('nothing of it plays')), PATIENCE)
      pump()
    },
    end,
  }
}
