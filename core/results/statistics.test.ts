import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { correlation, cronbachAlpha, kuderRichardson20, setStatistics, upperLowerIndex } from './statistics'

/**
 * The Law School Admission Test, section 6: 1,000 people, five items, how many gave each pattern of answers (Bock and
 * Lieberman, Psychometrika 35, 1970).
 */
const LSAT =
  '00000 3, 00001 6, 00010 2, 00011 11, 00100 1, 00101 1, 00110 3, 00111 4, 01000 1, 01001 8, 01011 16, 01101 3, 01110 2, 01111 15, 10000 10, 10001 29, 10010 14, 10011 81, 10100 3, 10101 28, 10110 15, 10111 80, 11000 16, 11001 56, 11010 21, 11011 173, 11100 11, 11101 61, 11110 28, 11111 298'
const lsat = LSAT.split(', ').flatMap((line) => {
  const [pattern = '', count = '0'] = line.split(' ')
  return Array.from({ length: Number(count) }, () => [...pattern].map(Number))
})
const round = (x: number | null, digits: number) => (x === null ? null : Number(x.toFixed(digits)))

describe('item analysis', () => {
  it('is that of the published one of the Law School Admission Test', () => {
    expect(lsat).toHaveLength(1000)
    const { items, alpha, kr20, mean } = setStatistics(lsat, [1, 1, 1, 1, 1])
    // Proportions, point-biserial correlations without the item itself, and α as in Rizopoulos, J. Statistical Software
    // 17(5), 2006, section 3.1.
    expect(items.map((i) => round(i.difficulty, 3))).toEqual([0.924, 0.709, 0.553, 0.763, 0.87])
    expect(items.map((i) => round(i.discrimination, 4))).toEqual([0.1128, 0.1532, 0.1728, 0.1444, 0.1216])
    expect(round(alpha, 4)).toBe(0.295)
    expect(round(kr20, 4)).toBe(0.295)
    expect(round(mean, 3)).toBe(3.819)
  })
  it('knows no coefficient where nothing varies, or there is one of anything', () => {
    expect(cronbachAlpha([[1, 1]])).toBeNull()
    expect(cronbachAlpha([[1], [0]])).toBeNull()
    expect(
      cronbachAlpha([
        [1, 0],
        [1, 0],
      ]),
    ).toBeNull()
    expect(
      kuderRichardson20([
        [0.5, 1],
        [1, 0],
      ]),
    ).toBeNull()
    expect(correlation([1, 1, 1], [0, 1, 2])).toBeNull()
    expect(upperLowerIndex([1, 0, 1], [2, 0, 1])).toBeNull()
    expect(setStatistics([[1], [1], [0], [0]], [1]).items[0]).toMatchObject({ difficulty: 0.5, upperLower: null })
    const none = setStatistics([], [1, 2])
    expect(none).toMatchObject({ count: 0, mean: null, alpha: null, error: null })
    expect(none.items[0]).toEqual({ difficulty: null, discrimination: null, upperLower: null })
  })
  it('tells those who know from those who do not, whatever the order of rows', () => {
    const totals = [10, 9, 8, 7, 6, 5, 4, 3, 2, 1]
    expect(upperLowerIndex([1, 1, 1, 1, 1, 0, 0, 0, 0, 0], totals)).toBe(1)
    expect(upperLowerIndex([0, 0, 0, 1, 1, 1, 0, 1, 1, 1], totals)).toBe(-1)
    const rows = fc.array(fc.tuple(fc.constantFrom(0, 0.5, 1), fc.integer({ min: 0, max: 4 })), {
      minLength: 4,
      maxLength: 20,
    })
    fc.assert(
      fc.property(rows, (list) => {
        const index = (all: typeof list) =>
          upperLowerIndex(
            all.map(([x]) => x),
            all.map(([, t]) => t),
          )
        expect(index([...list].reverse())).toBeCloseTo(index(list) ?? NaN, 9)
        expect(Math.abs(index(list) ?? NaN)).toBeLessThanOrEqual(1)
      }),
    )
  })
  it('has α of items that say the same at 1, and KR-20 the same as α of right and wrong', () => {
    const same = [0, 0, 1, 1, 1].map((x) => [x, x, x])
    expect(cronbachAlpha(same)).toBeCloseTo(1, 12)
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.constantFrom(0, 1), { minLength: 4, maxLength: 4 }), { minLength: 3 }),
        (rows) => {
          const [a, k] = [cronbachAlpha(rows), kuderRichardson20(rows)]
          if (a === null) expect(k).toBeNull()
          else expect(k).toBeCloseTo(a, 9)
        },
      ),
    )
  })
})
