import { expect, test } from 'vitest'
import { readVtt } from '../captions/vtt'
import { chaptersVtt } from './chapters'

test('chapters go out as WebVTT, each until the next, the last until the end', () => {
  const vtt = chaptersVtt(
    [
      { at: 0, title: 'Gain & <loss>' },
      { at: 61.25, title: '' },
      { at: 100, title: 'One --> two\nand three' },
    ],
    130,
  )
  expect(vtt).toBe(
    'WEBVTT\n\n00:00:00.000 --> 00:01:01.250\nGain &amp; &lt;loss&gt;\n\n00:01:01.250 --> 00:01:40.000\nChapter\n\n' +
      '00:01:40.000 --> 00:02:10.000\nOne --&gt; two and three\n\n',
  )
  expect(readVtt(vtt, () => 'c').cues.map((c) => [c.from, c.to])).toEqual([
    [0, 61.25],
    [61.25, 100],
    [100, 130],
  ])
})
