import { describe, expect, it } from 'vitest'
import { recorded } from '../time/units'
import { noiseFinder, type NoiseEvent } from './noises'
import { proposeCuts } from './silence'

const RATE = 48_000
/** Bursts of a second's sound in silence: what each is, where it begins and how long it is, s. */
function room(bursts: [kind: 'voice' | 'hiss' | 'thud', at: number, length: number][], seconds = 6): Float32Array {
  const out = new Float32Array(seconds * RATE)
  let seed = 11
  const noise = () => ((seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647) * 2 - 1
  for (const [kind, at, length] of bursts)
    for (let i = 0; i < length * RATE; i++) {
      const t = i / RATE
      const fade = Math.min(1, t / 0.02, (length - t) / 0.02)
      out[Math.round(at * RATE) + i] =
        kind === 'voice'
          ? 0.2 * fade * (Math.sin(2 * Math.PI * 140 * t) + 0.5 * Math.sin(2 * Math.PI * 280 * t) + 0.1 * noise())
          : kind === 'hiss'
            ? 0.3 * fade * noise()
            : 0.6 * Math.exp(-t * 40) * Math.sin(2 * Math.PI * 90 * t)
    }
  return out
}
function find(sound: Float32Array, size = 4096): NoiseEvent[] {
  const finder = noiseFinder(RATE)
  for (let i = 0; i < sound.length; i += size) finder.push(sound.subarray(i, i + size))
  return finder.finish(-45)
}
const kinds = (sound: Float32Array) => find(sound).map((n) => [n.kind, Math.round(10 * n.from) / 10])

describe('coughs and bumps', () => {
  it('are told from words by their voicing and by how soon they are over', () => {
    expect(
      kinds(
        room([
          ['voice', 0.5, 0.4],
          ['hiss', 1.5, 0.4],
          ['thud', 2.5, 0.15],
          ['voice', 3.5, 0.25],
          ['hiss', 4.5, 0.3],
        ]),
      ),
    ).toEqual([
      ['cough', 1.5],
      ['bump', 2.5],
      ['cough', 4.5],
    ])
  })
  it('stand alone: what is next to speech, or goes on for long, is left', () => {
    expect(
      kinds(
        room([
          ['voice', 1, 0.5],
          ['hiss', 1.6, 0.3],
        ]),
      ),
    ).toEqual([])
    expect(kinds(room([['hiss', 1, 2]]))).toEqual([])
    expect(kinds(room([]))).toEqual([])
  })
  it('do not depend on how the sound is cut up', () => {
    const sound = room([
      ['hiss', 1.5, 0.4],
      ['thud', 3, 0.15],
    ])
    expect(find(sound, 777)).toEqual(find(sound, sound.length))
  })
})

describe('cuts', () => {
  const range = (from: number, to: number) => ({ from: recorded(from), to: recorded(to) })
  const noise = (from: number, to: number): NoiseEvent => ({ ...range(from, to), kind: 'cough' })
  it('leave half of the pauses around a cough', () => {
    const [cut, ...more] = proposeCuts([range(10, 10.8), range(11.2, 12)], [noise(10.8, 11.2)], 100)
    expect(more).toEqual([])
    expect(cut).toMatchObject({ reason: 'cough', says: 'A cough.' })
    expect([cut!.from, cut!.to]).toEqual([10.4, 11.6].map((t) => expect.closeTo(t, 6) as number))
  })
  it('take a pause out whole in which somebody coughs', () => {
    const cuts = proposeCuts([range(20, 22), range(22.4, 25)], [noise(22, 22.4)], 100)
    expect(cuts.map((c) => [c.reason, c.from, c.to])).toEqual([['pause', 20.6, 24.6]])
  })
  it('do not touch words that follow at once', () => {
    const [cut] = proposeCuts([], [noise(30, 30.4)], 100)
    expect([cut!.from, cut!.to]).toEqual([29.94, 30.46].map((t) => expect.closeTo(t, 6) as number))
  })
})
