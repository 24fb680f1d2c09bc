import { describe, expect, test } from 'vitest'
import type { CaptionTrack, Cue } from '../schema/captions'
import { recorded } from '../time/units'
import { doubtsOf, nextDoubtful, settleWord } from './doubts'
import { newTrack } from './track'

/** A cue of words, of which those with a question mark are doubtful. */
function cue(id: string, text: string): Cue {
  const words = text.split(' ').map((word, i) => ({
    text: word.replace(/\?$/, ''),
    ...{ from: recorded(i), to: recorded(i + 0.8) },
    confidence: word.endsWith('?') ? 0.1 : 0.9,
    ...(word.endsWith('?') && { alternatives: ['ice'] }),
  }))
  return { id, from: recorded(0), to: recorded(9), text: words.map((w) => w.text).join(' '), words }
}
const track = (...cues: Cue[]): CaptionTrack => newTrack({ cues }, 'recogniser')
const first = (t: CaptionTrack) => t.cues[0]!

describe('a doubtful word', () => {
  test('is settled by another one, and nothing else of its cue is touched', () => {
    const one = { ...cue('a', 'the eyes? floats? away'), text: 'the <i>eyes\nfloats</i> away' }
    const settled = first(settleWord(track(one), 'a', 1, 'ice & snow'))
    expect(settled.text).toBe('the <i>ice &amp; snow\nfloats</i> away')
    const once = first(settleWord(track(one), 'a', 1, 'ice'))
    expect(once.text).toBe('the <i>ice\nfloats</i> away')
    expect(doubtsOf(once).map((d) => d.word.text)).toEqual(['floats'])
    expect(once.words![1]).toEqual({ text: 'ice', from: 1, to: 1.8, confidence: 1 })
  })
  test('that is right is not asked for again', () => {
    const settled = first(settleWord(track(cue('a', 'old ice? falls?')), 'a', 1, null))
    expect(settled.text).toBe('old ice falls')
    expect(doubtsOf(settled).map((d) => d.index)).toEqual([2])
    expect(settled.words![1]).not.toHaveProperty('alternatives')
  })
  test('that is gone is said to be', () => {
    expect(() => settleWord(track(cue('a', 'ice?')), 'b', 0, null)).toThrow('not there any more')
    expect(() => settleWord(track(cue('a', 'ice?')), 'a', 4, null)).toThrow('not there any more')
  })
  test('is told of only while the text has as many words as were heard', () => {
    expect(doubtsOf({ ...cue('a', 'ice? falls'), text: 'ice falls down' })).toEqual([])
  })
  test('is found after the one that is open, and from the start again', () => {
    const cues = [cue('a', 'ice?'), cue('b', 'snow'), cue('c', 'firn?')]
    expect(['a', 'b', 'c', null].map((id) => nextDoubtful(cues, id)?.id)).toEqual(['c', 'c', 'a', 'a'])
    expect(nextDoubtful([cue('b', 'snow')], 'b')).toBeUndefined()
  })
})
