/** Recognises a lecture's speech piece by piece, as many at a time as there are cores, and gives what is heard in time order. */
import { open, rm, writeFile, type FileHandle } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { dirname, join } from 'node:path'
import { speechPieces } from '#core/captions/pieces'
import type { Word } from '#core/schema/captions'
import { growing } from '#core/sound/growing'
import { writeWav, type WavHeader } from '#core/sound/wav'
import { recorded, type RecordedRange } from '#core/time/units'
import type { Piece, Recogniser } from './recogniser'

export interface Heard {
  words: Word[]
  /** How far the sound has been heard, s. */
  until: number
  /** Where it could not be recognised, although it was tried twice. */
  missed?: { from: number; to: number; says: string }
}

export interface HearOptions extends Omit<Piece, 'file'> {
  /** Only what comes after this is heard, s: an `until` that was given before. */
  from?: number
  /** Pieces at a time. */
  cores?: number
}

const RATE = 16_000
/** Samples of which the highest is kept: 10 ms. */
const BLOCK = 160
/** So many pieces may fail before any was recognised. */
const GIVEN_UP = 3

/** The highest sample (0…1) of each 10 ms. */
async function topsOf(file: FileHandle, header: WavHeader, size: number): Promise<Float32Array> {
  const tops = growing()
  const buffer = Buffer.alloc(BLOCK * 2 * 2000)
  for (let at = header.dataOffset; at < size;) {
    const { bytesRead } = await file.read(buffer, 0, Math.min(buffer.length, size - at), at)
    if (bytesRead === 0) break
    for (let i = 0; i + 1 < bytesRead; i += 2 * BLOCK) {
      let top = 0
      for (let k = i; k + 1 < Math.min(bytesRead, i + 2 * BLOCK); k += 2)
        top = Math.max(top, Math.abs(buffer.readInt16LE(k)))
      tops.push(top / 32_768)
    }
    at += bytesRead
  }
  return tops.values()
}

/**
 * @param wav a WAVE file of 16 kHz, mono, 16 bit; pieces of it are written beside it for as long as they are read
 * @throws {Error} with a sentence, when not one of the first pieces can be recognised or the signal is given
 */
export async function* hear(
  wav: string,
  header: WavHeader,
  recogniser: Recogniser,
  { from = 0, cores = availableParallelism(), ...ofPieces }: HearOptions,
  given: AbortSignal,
): AsyncGenerator<Heard> {
  const file = await open(wav)
  // What is still running when nobody wants any more of it is ended.
  const over = new AbortController()
  const signal = AbortSignal.any([given, over.signal])
  try {
    const end = Math.min((await file.stat()).size, header.dataOffset + header.dataSize)
    const whole = (end - header.dataOffset) / 2 / RATE
    // The same pieces whenever the same sound is listened to.
    const pieces = speechPieces(await topsOf(file, header, end), RATE / BLOCK).filter((p) => p.to > from + 0.01)
    let any = false
    let missed = 0
    const readPiece = async (piece: RecordedRange, i: number): Promise<Heard> => {
      const from = Math.round(piece.from * RATE)
      const samples = Buffer.alloc(2 * (Math.min(Math.round(piece.to * RATE), Math.floor(whole * RATE)) - from))
      await file.read(samples, 0, samples.length, header.dataOffset + 2 * from)
      const path = join(dirname(wav), `piece-${i}.wav`)
      await writeFile(path, writeWav(samples, RATE))
      try {
        for (let tries = 1; ; tries++) {
          signal.throwIfAborted()
          try {
            const words = await recogniser.read({ file: path, ...ofPieces }, signal)
            any = true
            return { words: words.map((w) => within(w, piece)), until: piece.to }
          } catch (error) {
            signal.throwIfAborted()
            if (tries < 2) continue
            const says = error instanceof Error ? error.message : String(error)
            return { words: [], until: piece.to, missed: { from: piece.from, to: piece.to, says } }
          }
        }
      } finally {
        await rm(path, { force: true })
      }
    }
    for await (const heard of inOrder(pieces, readPiece, cores)) {
      // A recogniser that works on nothing does not work; one that fails on a piece now and then does.
      if (heard.missed && ++missed >= Math.min(GIVEN_UP, pieces.length) && !any) throw new Error(heard.missed.says)
      yield heard
    }
    yield { words: [], until: whole }
  } finally {
    over.abort()
    await file.close()
  }
}

/** A word of a piece in the time of the whole, and never outside the piece. */
function within(word: Word, { from, to }: RecordedRange): Word {
  const inside = (at: number) => recorded(Math.min(to, from + at))
  return { ...word, from: inside(word.from), to: inside(word.to) }
}

/** Does `most` at a time, and gives what comes of each in the order of the list. */
async function* inOrder<T, R>(
  list: readonly T[],
  act: (item: T, i: number) => Promise<R>,
  most: number,
): AsyncGenerator<R> {
  const running: Promise<R>[] = []
  let next = 0
  const begin = () => {
    const result = act(list[next] as T, next)
    // It is awaited in its turn; until then a failure is nobody's.
    result.catch(() => undefined)
    running.push(result)
    next++
  }
  try {
    while (running.length < most && next < list.length) begin()
    for (let first = running.shift(); first; first = running.shift()) {
      const result = await first
      if (next < list.length) begin()
      yield result
    }
  } finally {
    await Promise.allSettled(running)
  }
}
