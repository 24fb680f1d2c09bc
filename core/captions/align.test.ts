import { describe, expect, it } from 'vitest'
import type { Word } from '../schema/captions'
import { recorded } from '../time/units'
import { alignedWords, alignScript } from './align'

const heard = (text: string, at = 0, each = 0.4): Word[] =>
  text.split(' ').map((word, i) => ({
    ...{ text: word, confidence: 0.8 },
    from: recorded(at + i * each),
    to: recorded(at + i * each + each * 0.9),
  }))
const words = (text: string) => text.split(' ')

/** mulberry32 */
function seeded(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

describe('a script', () => {
  it('has the times of what is heard, however it is spelt there', () => {
    const script = words('Ice, when it moves, slides over wet rock.')
    const { times, departures } = alignScript(script, heard('ice when it moves sliced over what rock'))
    expect(departures).toEqual([])
    expect(times.map((t) => t!.from)).toEqual([0, 0.4, 0.8, 1.2, 1.6, 2, 2.4, 2.8].map((t) => expect.closeTo(t, 6)))
  })
  it('gives words that were heard as fewer the time that they took', () => {
    const said = [...heard('the', 0), ...heard('accumulation', 0.4, 1.2), ...heard('of snow', 1.6)]
    const { times, departures } = alignScript(words('the a cumulus nation of snow'), said)
    expect(departures).toEqual([])
    expect(times.every((t) => t !== null)).toBe(true)
    expect(times[4]!.from).toBeCloseTo(1.6, 6)
    for (const t of times.slice(1, 4)) {
      expect(t!.from).toBeGreaterThanOrEqual(0.3)
      expect(t!.to).toBeLessThanOrEqual(1.61)
    }
  })
  it('tells what is not said of it, and what is said besides, and leaves both to a person', () => {
    const script = words('snow falls on the ice and stays there for many long cold years until it is ice itself')
    const said = heard('snow falls on the ice well you all know this from last week until it is ice itself')
    const alignment = alignScript(script, said)
    expect(alignment.departures.map((d) => d.kind)).toEqual(['unsaid', 'besides'])
    const plain = (kept: number[]) =>
      alignedWords(script, alignment, new Set(kept))
        .map((w) => w.text)
        .join(' ')
    expect(plain([])).toContain('on the ice')
    const besides = alignment.departures.findIndex((d) => d.kind === 'besides')
    expect(plain([besides])).toContain('you all know this from last week')
  })
  it('that leaves out a passage has no times for it', () => {
    const script = words('one two three four five six seven eight nine ten eleven twelve')
    const { times, departures } = alignScript(script, heard('one two three ten eleven twelve'))
    expect(departures).toEqual([{ kind: 'unsaid', from: 3, to: 9, at: expect.closeTo(1.16, 6) }])
    expect(times.slice(3, 9)).toEqual(Array(6).fill(null))
    expect(alignedWords(script, { times, departures }, new Set()).map((w) => w.text)).toHaveLength(6)
    expect(alignedWords(script, { times, departures }, new Set([0])).map((w) => w.text)).toEqual(script)
  })
  it('and nothing heard, or nothing of a script, is no matter', () => {
    expect(alignScript([], heard('a b')).times).toEqual([])
    expect(alignScript(words('one two three four'), []).departures).toMatchObject([{ kind: 'unsaid', from: 0, to: 4 }])
  })
})

/** Common words more often than rare ones, as they are in speech. */
const common = words(
  'the of and to in a is that it for on as with at by from this we you are was be or an not have but can which there their when one all more its so if out up about into than them then some these would other how our two may what over only new very after most also made well where much through before',
)
const rare = words(
  'glacier meltwater ablation accumulation crevasse moraine isotope crystal bedrock sediment velocity gradient albedo firn serac drumlin esker moulin surface pressure temperature viscosity deformation basal sliding calving terminus outlet valley cirque tributary annual layer density volume balance season record climate ocean sea level',
)

/** A lecture with the truth: when each word of its script is said, and what a recogniser makes of it. */
function lecture(count: number, seed: number, { unsaid = 0, besides = 0, wrong = 0.3 }) {
  const random = seeded(seed)
  const pick = (from: readonly string[]) => from[Math.floor(random() ** 1.5 * from.length)] ?? 'the'
  const any = () => (random() < 0.7 ? pick(common) : pick(rare))
  const script: string[] = []
  const truth: (number | null)[] = []
  const out: Word[] = []
  let at = 1
  const say = (word: string) => {
    const long = 0.08 + 0.055 * word.length + 0.1 * random()
    // One of three is heard as another word, left out, or as two.
    const how = random() < wrong ? random() : 1
    const put = (text: string, from: number, to: number) =>
      out.push({ text, from: recorded(from), to: recorded(to), confidence: 0.5 })
    if (how < 0.55) put(random() < 0.5 ? any() : word.slice(0, -1) + 'ed', at, at + long)
    else if (how < 0.8) out.length += 0
    else if (how < 1) {
      put(any(), at, at + long / 2)
      put(any(), at + long / 2, at + long)
    } else put(word, at, at + long)
    const from = at
    at += long + (random() < 0.08 ? 0.7 : 0.03)
    return from
  }
  while (script.length < count) {
    const passage = 6 + Math.floor(10 * random())
    const [skips, adds] = [random() < unsaid, random() < besides]
    for (let k = 0; k < passage; k++) {
      const word = any()
      script.push(word)
      truth.push(skips ? null : say(word))
    }
    if (adds) for (let k = 0; k < passage; k++) say(any())
  }
  return { script, truth, heard: out }
}

describe('a made lecture, three of ten words misheard', () => {
  it.each([
    ['as it stands', {}],
    ['a tenth unsaid and a tenth said besides', { unsaid: 0.1, besides: 0.1 }],
  ])('%s has 95 of 100 words within 0.3 s', (_, how) => {
    for (const seed of [1, 2, 3]) {
      const { script, truth, heard: said } = lecture(3000, seed, how)
      const { times } = alignScript(script, said)
      const spoken = truth.flatMap((t, i) => (t === null ? [] : [[t, times[i]?.from ?? Infinity] as const]))
      const near = spoken.filter(([t, found]) => Math.abs(t - found) <= 0.3).length
      expect(near / spoken.length, `seed ${seed}`).toBeGreaterThanOrEqual(0.95)
    }
  })
  it('of two hours is laid out in seconds, in order', () => {
    const { script, heard: said } = lecture(16_000, 9, { unsaid: 0.1, besides: 0.1 })
    const began = performance.now()
    const { times } = alignScript(script, said)
    expect(performance.now() - began).toBeLessThan(20_000)
    const known = times.flatMap((t) => t ?? [])
    known.forEach((t, i) => expect(t.from).toBeGreaterThanOrEqual((known[i - 1]?.from ?? 0) - 1e-6))
  })
})
