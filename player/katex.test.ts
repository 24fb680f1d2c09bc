import { describe, expect, it } from 'vitest'
import { drawFormula } from './katex'

describe('a formula', () => {
  it('that is nested too deeply is shown as it is written, and says why', () => {
    const into = { textContent: '', title: '' } as HTMLElement
    const tex = '{'.repeat(50_000) + 'x' + '}'.repeat(50_000)
    drawFormula(tex, into, false)
    expect([into.textContent === tex, into.title]).toEqual([true, 'This formula is nested too deeply to be drawn.'])
  })
})
