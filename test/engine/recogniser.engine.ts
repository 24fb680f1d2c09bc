/** Speech as the recognisers that come with Thaw hear it: where each word is, in a talk with pauses, coughs and knocks. */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import type { Word } from '#core/schema/captions'
import { readWavHeader } from '#core/sound/wav'
import { chooseRecogniser } from '../../server/recogniser'
import { hear } from '../../server/recogniser/hear'
import type { Recogniser } from '../../server/recogniser/recogniser'
import { lengthy } from '../at-length'
import { makeTalk, RATE, toWav } from './talks'

const folder = mkdtempSync(join(tmpdir(), 'thaw-recogniser-'))
let example: ChildProcess | undefined
afterAll(() => {
  example?.kill()
  rmSync(folder, { recursive: true, force: true })
})

const talk = makeTalk(11)
/** @param seconds of the talk, from its beginning */
async function heard(recogniser: Recogniser, seconds = Infinity): Promise<Word[]> {
  expect(await recogniser.problem()).toBe('')
  const wav = toWav(talk.samples.subarray(0, Math.min(talk.samples.length, seconds * RATE)))
  const file = join(folder, 'talk.wav')
  writeFileSync(file, wav)
  const words: Word[] = []
  for await (const part of hear(file, readWavHeader(wav), recogniser, { language: 'en' }, new AbortController().signal))
    words.push(...part.words)
  return words
}
/** What is said within a stretch of the talk, and how much of all that is said is where somebody speaks. */
const within = (words: readonly Word[], { from, to }: { from: number; to: number }) =>
  words.filter((w) => (w.from + w.to) / 2 >= from && (w.from + w.to) / 2 <= to).map((w) => w.text)

describe('a talk', () => {
  test('is heard where it is said, with what else may have been', { timeout: 120_000 }, async () => {
    const words = await heard(chooseRecogniser({}))
    const spoken = talk.words.flatMap((phrase) => within(words, phrase))
    expect(spoken.length / words.length).toBeGreaterThan(0.85)
    const [first, ...others] = talk.words
    expect(within(words, first!).join(' ')).toContain('lecture on glaciers and on the water that comes from')
    for (const phrase of others) expect(within(words, phrase).length).toBeGreaterThan(0)
    expect(words.some((w) => w.alternatives?.length)).toBe(true)
    expect(words.every((w) => w.confidence >= 0 && w.confidence <= 1)).toBe(true)
  })
  lengthy(
    'is heard by the example of a recogniser of one’s own, as a program and as a service',
    { timeout: 240_000 },
    async () => {
      const path = join(import.meta.dirname, '../../examples/recogniser.mjs')
      const asProgram = await heard(chooseRecogniser({ THAW_RECOGNISER: path }), 13)
      expect(within(asProgram, talk.words[0]!).join(' ')).toContain('lecture on glaciers')
      example = spawn(process.execPath, [path, '--port', '18411'], { stdio: ['ignore', 'pipe', 'inherit'] })
      await new Promise((resolve) => example?.stdout?.once('data', resolve))
      expect(await heard(chooseRecogniser({ THAW_RECOGNISER: 'http://localhost:18411/' }), 13)).toEqual(asProgram)
    },
  )
})
