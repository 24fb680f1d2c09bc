import { describe, expect, it } from 'vitest'
import { standingOf } from './position'
import { plainText } from './text'
import { readVtt, type CaptionFile, type FileProblem } from './vtt'
import { fileCases, textCases } from './webvtt-cases'

describe('WebVTT, as the standard has it', () => {
  it('has enough of it', () => {
    expect(fileCases.length + textCases.length).toBeGreaterThanOrEqual(60)
  })
  it.each(fileCases)('$name', ({ file, cues, refused = 0, stands, id }) => {
    const problems: FileProblem[] = []
    let n = 0
    const read: CaptionFile = readVtt(file, () => `c${++n}`, problems)
    expect(read.cues.map((c) => [c.from, c.to, c.text])).toEqual(cues.slice(refused))
    // What a parser would lose, or take though nobody may write it, is named.
    const blocks = file.split(/(?:\r\n|\r|\n){2,}/).filter((b) => b.includes('->')).length
    if (read.cues.length < Math.max(blocks, cues.length)) expect(problems.length).toBeGreaterThan(0)
    if (id) expect(read.cues[0]?.name).toBe(id)
    if (stands) expect(standingOf(read.cues[0]!)).toEqual(stands)
  })
  it.each(textCases)('$text', ({ text, seen }) => {
    expect(plainText(text)).toBe(seen)
  })
})
