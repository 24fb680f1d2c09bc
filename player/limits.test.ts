import { describe, expect, it } from 'vitest'
import type { WatchView } from '#core/packages/watch-view'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { jumpLimit } from './limits'

const set = (version: string, policy: Partial<typeof DEFAULT_POLICY>, handedInAt: string | null = null) =>
  ({
    ...{ version, id: version, title: '', possible: 1, counted: null, canBegin: false },
    policy: { ...DEFAULT_POLICY, ...policy },
    attempts: [{ number: 1, handedInAt, points: null }],
  }) satisfies WatchView['sets'][number]
const checkpoints = [
  { id: 'c1', at: 10, set: 'a', questions: [] },
  { id: 'c2', at: 30, set: 'b', questions: [] },
]
const answered =
  (...ids: string[]) =>
  ({ id }: { id: string }) =>
    ids.includes(id)

describe('jumping ahead', () => {
  it('goes anywhere where nothing forbids it', () => {
    expect(jumpLimit({ sets: [set('a', {}), set('b', {})], checkpoints }, 0, answered())).toBeNull()
  })
  it('goes as far as was watched, or answered on another device', () => {
    const view = { sets: [set('a', {}), set('b', { ahead: false })], checkpoints }
    expect(jumpLimit(view, 5, answered())?.at).toBe(5)
    expect(jumpLimit(view, 5, answered('c1'))?.at).toBe(10)
    expect(jumpLimit(view, 20, answered('c1'))?.at).toBe(20)
  })
  it('is not held by a set that asks nothing', () => {
    expect(jumpLimit({ sets: [set('empty', { ahead: false })], checkpoints }, 5, answered())).toBeNull()
  })
  it('stops before a question that cannot be put off', () => {
    const view = { sets: [set('a', { putOff: false }), set('b', { putOff: false })], checkpoints }
    expect(jumpLimit(view, 0, answered())).toMatchObject({ at: 10 })
    expect(jumpLimit(view, 0, answered('c1'))).toMatchObject({ at: 30 })
    expect(jumpLimit(view, 0, answered('c1', 'c2'))).toBeNull()
  })
  it('is free again once a set is handed in', () => {
    const over = set('a', { putOff: false, ahead: false }, '2026-11-23T10:00:00.000Z')
    expect(jumpLimit({ sets: [over], checkpoints }, 0, answered())).toBeNull()
  })
})
