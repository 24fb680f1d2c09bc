import { describe, expect, it } from 'vitest'
import type { WatchView } from '#core/packages/watch-view'
import { richOf } from '#core/text/rich-text'
import { recorded } from '#core/time/units'
import { oneRight } from '../test/questions'
import { findStops, stopsOf } from './finding'

const cue = (id: string, from: number, text: string) => ({ id, from: recorded(from), to: recorded(from + 2), text })
const cues = [
  cue('a', 0, '<v Ada>The <b>moulin</b>\nis deep</v>'),
  cue('b', 1, 'Water falls &amp; runs'),
  cue('c', 4, 'Deep wáter'),
]
const question = (id: string, words: string) => {
  const { open } = oneRight(id)
  return { open: { ...open, prompt: richOf(words) }, report: { kind: 'unanswered' as const } }
}
const view = {
  chapters: [{ id: 'k', at: 4, title: 'The deep' }],
  links: [
    {
      ...{ id: 'l', from: 3, to: 6, words: 'Map of the moulins', target: { at: 0 } },
      ...{ box: { x: 0, y: 0, width: 0.1, height: 0.1 }, ink: '#ffffff', ground: '#000000', corner: 0 },
    },
  ],
  checkpoints: [
    { id: 'p', at: 5, set: 's', questions: [question('q', 'How deep is a moulin?'), question('r', 'And why?')] },
    { id: 'z', at: 9, set: 's', questions: [question('t', 'Deep down?')] },
  ],
} as unknown as Pick<WatchView, 'chapters' | 'links' | 'checkpoints'>
const stops = stopsOf(view, cues, (c) => c.at < 6)
const found = (query: string) => findStops(stops, query).map((s) => `${s.kind} ${s.id}`)

describe('finding in a lecture', () => {
  it('lists what was said and its chapters, in order, when nothing is asked', () => {
    expect(found('')).toEqual(['cue a', 'cue b', 'chapter k', 'cue c'])
    expect(found(' ? ')).toEqual(found(''))
  })
  it('finds by the beginnings of words, in words, chapters, links and questions', () => {
    expect(found('Moul')).toEqual(['cue a', 'link l', 'question q'])
    expect(found('deep')).toEqual(['cue a', 'chapter k', 'cue c', 'question q'])
    expect(found('oulin')).toEqual([])
  })
  it('needs every word, and does not care for case and accents', () => {
    expect(found('DEEP wat')).toEqual(['cue c'])
    expect(found('wäter')).toEqual(['cue b', 'cue c'])
  })
  it('finds who said it, and reads no markup', () => {
    expect(found('ada')).toEqual(['cue a'])
    expect(found('amp')).toEqual([])
    expect(stops.find((s) => s.id === 'a')).toMatchObject({ text: 'The moulin is deep', speaker: 'Ada' })
  })
  it('tells nothing of questions that may not be read yet', () => {
    expect(found('down')).toEqual([])
  })
})
