import { describe, expect, it } from 'vitest'
import { collectBytes } from './collect'

/** So many pieces of 10 bytes; `given` says how many of them were asked for. */
function pieces(count: number) {
  const state = { given: 0 }
  async function* give() {
    while (state.given < count) yield new Uint8Array(10).fill(++state.given)
  }
  return { state, stream: give() }
}

describe('collecting bytes', () => {
  it('gives them end to end', async () => {
    expect(await collectBytes(pieces(3).stream, 30)).toEqual(
      new Uint8Array([...Array(30).keys()].map((i) => 1 + Math.floor(i / 10))),
    )
  })
  it('gives none when they are too many, but reads all of a body that is not endless', async () => {
    const { state, stream } = pieces(12)
    expect(await collectBytes(stream, 30, 100)).toBeNull()
    expect(state.given).toBe(12)
  })
  it('stops reading what has no end', async () => {
    const { state, stream } = pieces(1_000_000)
    expect(await collectBytes(stream, 30, 100)).toBeNull()
    expect(state.given).toBe(14)
  })
})
