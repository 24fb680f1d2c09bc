import { expect, test } from 'vitest'
import type { Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { proposeChapters, topicBetween } from './propose-chapters'

const topics = [
  'glacier ice flows slowly downhill under gravity and crevasses open where the glacier bends over rock',
  'radar pulses travel through firn and their echoes show layers whose density the antenna measures',
  'salmon swim upstream in meltwater rivers and their eggs need cold oxygen between gravel stones',
]
/** Some minutes on each topic, its words in changing order, and a long pause between two. */
function lecture(of: readonly string[], minutes: number): { cues: Cue[]; begins: number[] } {
  const cues: Cue[] = []
  const begins: number[] = []
  let at = 0
  for (const [n, topic] of of.entries()) {
    begins.push(at)
    const words = topic.split(' ')
    for (let i = 0; i < minutes * 12; i++) {
      const text = Array.from({ length: 8 }, (_, k) => words[(i * 5 + k * 3) % words.length]).join(' ')
      cues.push({ id: `${n}-${i}`, from: recorded(at), to: recorded(at + 4.5), text } as Cue)
      at += 5
    }
    at += 3
  }
  return { cues, begins }
}

test('chapters are proposed where the words change, and named by what is said there', () => {
  const { cues, begins } = lecture(topics, 4)
  const silences = begins.slice(1).map((t) => ({ from: recorded(t - 3.5), to: recorded(t) }))
  const found = proposeChapters(cues, silences)
  expect(found.map((p) => p.at)).toEqual(begins.slice(1))
  expect(found[0]!.title).toMatch(/radar|echo|firn|layer|density|antenna|pulse/i)
  expect(found[1]!.says).toContain('after a pause of')
})

test('nothing is proposed in what is short, or speaks of one thing throughout', () => {
  expect(proposeChapters([], [])).toEqual([])
  expect(proposeChapters(lecture(topics.slice(0, 1), 1).cues, [])).toEqual([])
  expect(proposeChapters(lecture(topics.slice(0, 1), 10).cues, [])).toEqual([])
})

test('what a slide is about is told by what is said while it is shown', () => {
  const { cues, begins } = lecture(topics, 1)
  expect(topicBetween(cues, begins[2]!, Infinity)).toMatch(/salmon|rivers|eggs|oxygen|gravel|stones|meltwater|swim/i)
  expect(topicBetween(cues, 5000, 6000)).toBe('')
})
