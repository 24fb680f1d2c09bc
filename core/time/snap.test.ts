import fc from 'fast-check'
import { expect, test } from 'vitest'
import { laneRows } from './lane-rows'
import { jump, snapTo, sortTargets } from './snap'
import { recorded } from './units'

const at = (...times: number[]) => sortTargets(times.map((t) => ({ at: recorded(t), what: `at ${t}` })))

test('the nearest edge goes to the nearest target within reach', () => {
  expect(snapTo([4.9, 8.05], at(5, 8, 20), 0.2)).toMatchObject({ target: { what: 'at 8' } })
  expect(snapTo([4.9, 8.05], at(5, 8, 20), 0.2)?.by).toBeCloseTo(-0.05)
  expect(snapTo([4.9], at(5, 8, 20), 0.2)?.by).toBeCloseTo(0.1)
  expect(snapTo([6.5], at(5, 8), 0.2)).toBeNull()
  expect(snapTo([6.5], [], 10)).toBeNull()
})

test('what a person has put there is met before what is nearer', () => {
  const targets = [{ at: recorded(5.1), what: 'playhead', isMeant: true }, ...at(4.95)].sort((a, b) => a.at - b.at)
  expect(snapTo([5], targets, 0.2)?.target.what).toBe('playhead')
  expect(snapTo([5], targets, 0.07)?.target.what).toBe('at 4.95')
})

test('what is found is never further off than any other target', () => {
  const times = fc.array(fc.double({ min: 0, max: 50, noNaN: true }), { maxLength: 12 })
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0, max: 50, noNaN: true }), { minLength: 1, maxLength: 3 }),
      times,
      (edges, targets) => {
        const least = Math.min(...edges.flatMap((e) => targets.map((t) => Math.abs(t - e))))
        const found = snapTo(edges, at(...targets), 1)
        if (least <= 1) expect(Math.abs(found!.by)).toBeCloseTo(least, 9)
        else expect(found).toBeNull()
      },
    ),
  )
})

test('jumping goes to the next and the one before, and nowhere beyond the last', () => {
  const times = [1, 4, 9]
  expect([jump(times, 1, 'next'), jump(times, 9, 'next'), jump(times, 1, 'previous')]).toEqual([4, null, null])
  expect(jump(times, 5, 'previous')).toBe(4)
})

test('ranges on one row never overlap, and no more rows are used than meet at once', () => {
  const ranges = fc.array(
    fc
      .tuple(fc.integer({ min: 0, max: 40 }), fc.integer({ min: 1, max: 12 }))
      .map(([from, length]) => ({ from, to: from + length })),
    { maxLength: 14 },
  )
  fc.assert(
    fc.property(ranges, (all) => {
      const rows = laneRows(all)
      all.forEach((a, i) =>
        all.forEach((b, j) => {
          if (i < j && rows[i] === rows[j]) expect(a.to <= b.from || b.to <= a.from).toBe(true)
        }),
      )
      const meeting = Math.max(0, ...all.map((a) => all.filter((b) => b.from <= a.from && a.from < b.to).length))
      expect(Math.max(0, ...rows.map((r) => r + 1))).toBe(meeting)
    }),
  )
})
