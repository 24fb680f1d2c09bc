import fc from 'fast-check'
import { oneRight } from '../../test/questions'
import type { Checkpoint } from '../schema/questions'
import { describe, expect, test } from 'vitest'
import { recorded } from '../time/units'
import { clampShift, dropItems, placedAt, putItems, rangeOf, shifted, withEdge } from './items'
import { copyOf, kinds, newDocument } from './kinds'

const range = fc
  .tuple(fc.double({ min: 0, max: 100, noNaN: true }), fc.double({ min: 0, max: 100, noNaN: true }))
  .map(([a, b]) => ({ from: recorded(Math.min(a, b)), to: recorded(Math.max(a, b)) }))

describe('moving', () => {
  test('what is moved together keeps its lengths and distances, and stays inside the recording', () => {
    fc.assert(
      fc.property(
        fc.array(range, { minLength: 1, maxLength: 6 }),
        fc.double({ min: -200, max: 200, noNaN: true }),
        (all, by) => {
          const fits = clampShift(all, by, 100)
          const moved = all.map((r) => shifted(r, fits))
          moved.forEach((r, i) => {
            expect(r.from).toBeGreaterThanOrEqual(-1e-9)
            expect(r.to).toBeLessThanOrEqual(100 + 1e-9)
            expect(r.to - r.from).toBeCloseTo(all[i]!.to - all[i]!.from, 9)
            expect(r.from - moved[0]!.from).toBeCloseTo(all[i]!.from - all[0]!.from, 9)
          })
          expect(Math.abs(fits)).toBeLessThanOrEqual(Math.abs(by) + 1e-9)
        },
      ),
    )
  })

  test('an edge is never moved past the other one', () => {
    fc.assert(
      fc.property(
        range,
        fc.constantFrom('from' as const, 'to' as const),
        fc.double({ min: 0, max: 100, noNaN: true }),
        (r, edge, at) => {
          const moved = withEdge(r, edge, at, 0.04)
          const other = edge === 'from' ? 'to' : 'from'
          expect(moved[other]).toBe(r[other])
          if (edge === 'to' || r.to >= 0.04) expect(moved.to - moved.from).toBeGreaterThanOrEqual(0.04 - 1e-9)
        },
      ),
    )
  })

  test('an instant stands where the range begins', () => {
    expect(placedAt({ id: 'a', at: 3 }, { from: recorded(7), to: recorded(9) })).toEqual({ id: 'a', at: 7 })
    expect(rangeOf({ id: 'a', at: 3 })).toEqual({ from: 3, to: 3 })
  })
})

describe('lists', () => {
  const { lists } = kinds.chapters
  const chapter = (id: string, at: number) => ({ id, at: recorded(at), title: id })

  test('items are added, replaced and dropped, and stand in order', () => {
    const empty = newDocument('chapters', '')
    const two = putItems(lists, empty, 'chapters', [chapter('b', 5), chapter('a', 2)])
    expect(two).toMatchObject({ chapters: [{ id: 'a' }, { id: 'b' }] })
    const moved = putItems(lists, two, 'chapters', [chapter('a', 9)])
    expect(moved).toMatchObject({ chapters: [{ id: 'b' }, { id: 'a', at: 9 }] })
    expect(dropItems(moved, 'chapters', new Set(['b']))).toMatchObject({ chapters: [{ id: 'a' }] })
    expect(two).toMatchObject({ chapters: [{ at: 2 }, { at: 5 }] })
  })

  test('a list that a document does not have is refused', () => {
    expect(() => putItems(lists, newDocument('chapters', ''), 'cuts', [])).toThrow('no list “cuts”')
  })

  test('a copied question is another question, with its key', () => {
    let n = 0
    const copy = copyOf(
      'questions',
      {
        id: 'c',
        at: 1,
        questions: [oneRight('q')],
      } as never,
      () => `new-${++n}`,
    ) as unknown as Checkpoint
    expect(copy.id).not.toBe('c')
    const [{ open, key } = oneRight('q')] = copy.questions
    expect([open.id, open.kind, key.questionId]).toEqual([expect.stringMatching(/^new-/), 'one-right', open.id])
    expect(key.kind === 'one-right' && open.kind === 'one-right' && key.right).toBe(
      open.kind === 'one-right' && open.choices[0]?.id,
    )
  })
})
