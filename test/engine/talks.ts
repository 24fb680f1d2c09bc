/**
 * Made talks of which is known what could be taken out: sentences of a synthetic voice, with silence at both ends, long
 * pauses, coughs, bumps, filled pauses, words said twice, and starts begun again, over the noise of a room.
 */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { writeWav } from '#core/sound/wav'
import type { ProposedCut } from '#core/sound/silence'
import type { WordCutReason } from '#core/captions/propose-word-cuts'

export const RATE = 16_000
export interface Truth {
  from: number
  to: number
  reason: ProposedCut['reason'] | WordCutReason
}
export interface Talk {
  samples: Float32Array
  truth: Truth[]
  /** Where words are that must stay. */
  words: { from: number; to: number }[]
}

const sentences = [
  'Snow that falls in winter becomes ice.',
  'The surface melts in summer.',
  'Water finds its way to the bed of the glacier.',
  'We measure the depth of the snow every week.',
  'Old ice is blue because the air has left it.',
  'A glacier is a river that moves slowly.',
  'The valley was filled with ice long ago.',
  'Stones are carried down and left at the end.',
  'Yes.',
  'So what do we see?',
  'The air above the ice is cold and dry.',
  'Count the layers from the top to the bottom.',
]
const twice: [string, string][] = [
  ['the snow', 'the snow is heavy in the spring.'],
  ['we can see', 'we can see the layers in the wall.'],
  ['the water', 'the water flows under the ice.'],
]
const restarts: [string, string][] = [
  ['if we look at', 'if we measure the depth we know the age.'],
  ['the river was', 'the river is older than the valley.'],
]
const folder = mkdtempSync(join(tmpdir(), 'thaw-talks-'))
const known = new Map<string, Float32Array>()

/** What the voice says, without the silence that it puts around it. */
function said(text: string): Float32Array {
  let samples = known.get(text)
  if (samples) return samples
  const file = join(folder, `${known.size}.wav`)
  if (!existsSync(file)) execFileSync('flite', ['-voice', 'slt', '-t', text, '-o', file])
  const bytes = readFileSync(file)
  const pcm = new Int16Array(
    bytes.buffer.slice(bytes.byteOffset + 44, bytes.byteOffset + bytes.length - (bytes.length % 2)),
  )
  const loud = (x: number) => Math.abs(x) > 400
  samples = Float32Array.from(pcm.subarray(pcm.findIndex(loud), pcm.findLastIndex(loud) + 1), (x) => (0.8 * x) / 32_768)
  known.set(text, samples)
  return samples
}

/** Numbers from 0 to 1, the same for the same seed (Park and Miller, CACM 31, 1988). */
function random(seed: number): () => number {
  let state = 1 + seed * 7919
  return () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647
}

/** Air that bursts out, once or twice, and hisses away. */
function cough(next: () => number): Float32Array {
  const bursts = 1 + Math.round(next())
  const out = new Float32Array(Math.round((0.3 + 0.25 * next()) * bursts * RATE))
  const each = out.length / bursts
  let [low, band] = [0, 0]
  for (let i = 0; i < out.length; i++) {
    const at = (i % each) / RATE
    const envelope = Math.min(1, at / 0.012) * Math.exp(-at * (7 + 3 * next()))
    const noise = 2 * next() - 1
    // Of the noise, what a throat lets through: some 300 Hz to 3 kHz.
    low += 0.55 * (noise - low)
    band += 0.11 * (low - band)
    out[i] = 0.9 * envelope * (low - band)
  }
  return out
}

/** A knock on the desk or the microphone: a dull thud with a click. */
function bump(next: () => number): Float32Array {
  const out = new Float32Array(Math.round(0.18 * RATE))
  const pitch = 60 + 80 * next()
  for (let i = 0; i < out.length; i++) {
    const at = i / RATE
    const click = at < 0.004 ? 2 * next() - 1 : 0
    out[i] = 0.6 * Math.sin(2 * Math.PI * pitch * at) * Math.exp(-at * 38) + 0.4 * click
  }
  return out
}

/** A talk of half a minute or so; the same for the same seed. */
export function makeTalk(seed: number): Talk {
  const next = random(seed)
  const pieces: Float32Array[] = []
  const truth: Truth[] = []
  const words: Talk['words'] = []
  let at = 0
  const add = (samples: Float32Array, gain = 1) => {
    pieces.push(gain === 1 ? samples : samples.map((x) => gain * x))
    at += samples.length / RATE
  }
  const quiet = (seconds: number) => add(new Float32Array(Math.round(seconds * RATE)))
  const say = (text: string) => {
    const from = at
    add(said(text))
    words.push({ from, to: at })
  }
  const pick = <T>(list: readonly T[]) => list[Math.floor(next() * list.length)] as T
  const chance = (share: number) => next() < share
  const noise = (make: (n: () => number) => Float32Array, reason: Truth['reason']) => {
    quiet(0.3 + 0.6 * next())
    const from = at
    add(make(next), 0.4 + 0.6 * next())
    truth.push({ from, to: at, reason })
    quiet(0.3 + 0.6 * next())
  }

  const lead = 0.2 + 4 * next()
  quiet(lead)
  if (chance(0.3)) {
    add(said('Good morning today we'))
    quiet(3.4 + next())
    truth.push({ from: 0, to: at - 0.4, reason: 'false-start' })
  } else if (lead > 0.8) truth.push({ from: 0, to: lead - 0.4, reason: 'start' })
  const events = [
    ...(chance(0.6) ? ['pause'] : []),
    ...(chance(0.6) ? ['cough'] : []),
    ...(chance(0.6) ? ['bump'] : []),
    ...(chance(0.6) ? ['filled-pause'] : []),
    ...(chance(0.5) ? ['repetition'] : []),
    ...(chance(0.5) ? ['restart'] : []),
  ]
  // The first sentence ends what might be taken for a false start.
  say('This is the lecture on glaciers and on the water that comes from them in the summer.')
  for (const event of events) {
    quiet(0.4 + 0.5 * next())
    say(pick(sentences))
    if (event === 'pause') {
      const length = 3.2 + 3 * next()
      truth.push({ from: at + 0.6, to: at + length - 0.4, reason: 'pause' })
      quiet(length)
      say(pick(sentences))
    } else if (event === 'cough') noise(cough, 'cough')
    else if (event === 'bump') noise(bump, 'bump')
    else if (event === 'filled-pause') {
      quiet(0.5)
      say('When it is warm')
      quiet(0.25)
      const from = at
      add(said(pick(['um', 'uh'])))
      truth.push({ from, to: at, reason: 'filled-pause' })
      quiet(0.25)
      say('the snow melts in the sun.')
    } else {
      quiet(0.5)
      const [tried, meant] = pick(event === 'repetition' ? twice : restarts)
      const from = at
      add(said(tried))
      truth.push({ from, to: at, reason: event as 'repetition' | 'restart' })
      quiet(event === 'repetition' ? 0.12 : 0.45)
      say(meant)
    }
  }
  quiet(0.6)
  say(pick(sentences))
  const tail = 0.3 + 5 * next()
  if (tail > 1.2) truth.push({ from: at + 0.6, to: at + tail, reason: 'end' })
  quiet(tail)

  const samples = new Float32Array(pieces.reduce((sum, p) => sum + p.length, 0))
  let offset = 0
  for (const piece of pieces) {
    samples.set(piece, offset)
    offset += piece.length
  }
  const room = 10 ** ((-66 + 14 * next()) / 20)
  for (let i = 0; i < samples.length; i++)
    samples[i] = Math.max(-1, Math.min(1, (samples[i] as number) + room * 1.7 * (2 * next() - 1)))
  return { samples, truth: truth.sort((a, b) => a.from - b.from), words }
}

/** As a WAVE file: 16 kHz, mono, 16 bit. */
export function toWav(samples: Float32Array): Uint8Array {
  return writeWav(new Uint8Array(Int16Array.from(samples, (x) => Math.round(32_767 * x)).buffer), RATE)
}
