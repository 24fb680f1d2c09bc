import { describe, expect, it } from 'vitest'
import { Steps } from './steps.mjs'

/** Steps that are written to a string, by a clock that the test moves. */
function written(isTTY: boolean) {
  const out = { text: '', isTTY, write: (text: string) => (out.text += text) }
  const clock = { s: 0 }
  return { out, clock, steps: new Steps(2, out, () => clock.s * 1000) }
}

describe('steps', () => {
  it('say in a log when one begins, how far it is at times, and how long it took', () => {
    const { out, clock, steps } = written(false)
    steps.begin('Installing packages')
    clock.s = 4
    steps.tell('10 of 800')
    clock.s = 11
    steps.tell('300 of 800')
    clock.s = 12
    steps.tell('320 of 800')
    clock.s = 30
    steps.begin('Building')
    clock.s = 31
    steps.end()
    steps.end()
    expect(out.text.split('\n')).toEqual([
      '[1 of 2] Installing packages …',
      '      300 of 800, 11 s',
      '[1 of 2] Installing packages: done in 30 s',
      '[2 of 2] Building …',
      '[2 of 2] Building: done in 1 s',
      '',
    ])
  })

  it('draw one line again and again where a person watches', () => {
    const { out, clock, steps } = written(true)
    steps.begin('Building')
    clock.s = 2
    steps.tell('400 files')
    steps.end()
    expect(out.text).toBe(
      '\r\x1b[K[1 of 2] Building: 0 s\r\x1b[K[1 of 2] Building: 400 files, 2 s\r\x1b[K[1 of 2] Building: done in 2 s\n',
    )
  })
})
