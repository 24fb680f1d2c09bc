import { describe, expect, it } from 'vitest'
import { newEdit, apply } from '../edit/edit'
import type { PublishedLink } from '../schema/publication'
import { recorded as at } from '../time/units'
import { burntCaptions, burntLinks, withBurnt } from './burnt'
import { writeScript, type ScriptFeed } from './script'

const screen: ScriptFeed = { id: 'screen', kind: 'screen', offset: 0, duration: 100, width: 1280, height: 720 }
const sound: ScriptFeed = { id: 'sound', kind: 'sound', offset: 0, duration: 100, width: 0, height: 0 }
const edit = apply(newEdit(at(100), 25), { do: 'remove', id: 'r', from: at(40), to: at(60) })
const script = writeScript(edit, [screen, sound], new Map())
const cue = (from: number, to: number, text = 'Ice', settings?: string) => ({
  from,
  to,
  text,
  ...(settings && { settings }),
})

describe('what is burnt in', () => {
  it('is composed where it is seen, and everything else is copied as before', () => {
    const burnt = withBurnt(script, burntCaptions([cue(10, 12), cue(12.5, 14), cue(70, 72)]))
    const seen = burnt.picture.map((s) => [s.at, s.at + s.length, s.whole?.from ?? null])
    expect(seen).toEqual([
      [0, 10, 0],
      [10, 14, null],
      [14, 40, 14],
      [40, 70, 60],
      [70, 72, null],
      [72, 80, 92],
    ])
    // What is composed shows the same of the recording, with the captions over it.
    expect(burnt.picture[4]?.layers.map((l) => [l.kind, 'from' in l ? l.from : null])).toEqual([
      ['feed', 90],
      ['burnt', 70],
    ])
    expect(burnt.sound).toBe(script.sound)
    expect(burnt.length).toBe(script.length)
  })
  it('goes on over a seam, in each of its pieces', () => {
    const { picture } = withBurnt(script, burntCaptions([cue(38, 42)]))
    expect(picture.filter((s) => !s.whole).map((s) => [s.at, s.at + s.length])).toEqual([
      [38, 40],
      [40, 42],
    ])
  })
  it('stands where the caption stands, with who speaks and how it is set', () => {
    const [top, foot] = burntCaptions([cue(1, 2, '<v Ada>Ice <i>flows</i>\nslowly', 'line:0 align:left'), cue(3, 4)])
    expect(top).toMatchObject({ still: { kind: 'caption', line: 'top', align: 'left' } })
    expect(top?.box.y).toBeLessThan(0.1)
    expect(foot?.box.y).toBeGreaterThan(0.7)
    const lines = top?.still.kind === 'caption' ? top.still.lines.map((l) => l.map((s) => s.text)) : []
    expect(lines).toEqual([['Ada: ', 'Ice ', 'flows'], ['slowly']])
    expect(burntCaptions([cue(1, 2, ''), cue(3, 3)])).toEqual([])
  })
  it('has the words of link cards in their boxes', () => {
    const box = { x: 0.5, y: 0.5, width: 0.25, height: 0.125 }
    const look = { ink: '#ffffff', ground: '#000000', corner: 0.02 }
    const link: PublishedLink = { id: 'l', from: 5, to: 9, words: 'The data', target: { at: 3 }, box, ...look }
    const { picture } = withBurnt(script, burntLinks([link]))
    const layer = picture[1]?.layers.at(-1)
    expect(layer?.kind === 'burnt' && layer.items).toEqual([
      {
        from: 5,
        to: 9,
        box: { x: 640, y: 360, width: 320, height: 90 },
        still: { kind: 'plate', words: 'The data', ...look },
      },
    ])
  })
  it('leaves a script alone in which nothing is burnt, or nothing is seen', () => {
    expect(withBurnt(script, [])).toBe(script)
    const heard = writeScript(edit, [sound], new Map())
    expect(withBurnt(heard, burntCaptions([cue(1, 2)]))).toBe(heard)
  })
})
