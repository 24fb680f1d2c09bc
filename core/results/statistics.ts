/**
 * Item analysis of a set of questions by classical test theory: how hard each is, whether it tells those who know from
 * those who do not, and how far the whole can be relied on.
 *
 * Scores are shares of an item's points, 0…1, one row for each student who answered all items; what is not answered in
 * an attempt that was handed in counts as 0.
 */
import { deviation, max, mean, min, sum, variance } from 'd3-array'

export interface ItemStatistics {
  /** Mean share of the points: the index of difficulty p, 0 (nobody) … 1 (everybody); null when nobody answered. */
  difficulty: number | null
  /**
   * Correlation of the item with the sum of the others, −1…1 (corrected item–total correlation; Henrysson, Psychometrika
   * 28, 1963); null where one of the two does not vary, or there are no others.
   */
  discrimination: number | null
  /**
   * Mean share in the upper group less that in the lower one, each 27 % by total (Kelley, J. Educational Psychology 30,
   * 1939); null with fewer than 4 students, or where there are no other items.
   */
  upperLower: number | null
}

export interface SetStatistics {
  items: ItemStatistics[]
  /** Students whose scores these are. */
  count: number
  /** Of the totals, in points; the standard deviation of the sample. */
  mean: number | null
  deviation: number | null
  least: number | null
  most: number | null
  /**
   * Internal consistency: Cronbach's α (Psychometrika 16, 1951). Null with fewer than two items or students, or where the
   * totals do not vary.
   */
  alpha: number | null
  /** The same of items that are right or wrong: Kuder–Richardson 20 (Psychometrika 2, 1937); null where one is neither. */
  kr20: number | null
  /** Standard error of measurement, points: the deviation times √(1 − α). */
  error: number | null
}

/** Fewer students than this say little: a coefficient may be far off by chance. */
export const FEW = 30

/** Pearson's r; null where one of the two does not vary. */
export function correlation(a: readonly number[], b: readonly number[]): number | null {
  const [ma, mb] = [mean(a) ?? 0, mean(b) ?? 0]
  const va = sum(a, (x) => (x - ma) ** 2)
  const vb = sum(b, (x) => (x - mb) ** 2)
  if (va < 1e-12 || vb < 1e-12) return null
  return sum(a, (x, i) => (x - ma) * ((b[i] ?? 0) - mb)) / Math.sqrt(va * vb)
}

/**
 * α of `scores`, a row for each student and a column for each item.
 * @returns null where it is not defined
 */
export function cronbachAlpha(scores: readonly (readonly number[])[]): number | null {
  const items = scores[0]?.length ?? 0
  if (items < 2 || scores.length < 2) return null
  const total = variance(scores, (row) => sum(row)) ?? 0
  if (total < 1e-12) return null
  const own = sum(Array.from({ length: items }, (_, i) => variance(scores, (row) => row[i]) ?? 0))
  return (items / (items - 1)) * (1 - own / total)
}

/** KR-20 of rows of 0 and 1: α in which each item's variance is p (1 − p). @returns null where it is not defined */
export function kuderRichardson20(scores: readonly (readonly number[])[]): number | null {
  const items = scores[0]?.length ?? 0
  if (items < 2 || scores.length < 2 || !scores.every((row) => row.every((x) => x === 0 || x === 1))) return null
  const totals = scores.map((row) => sum(row))
  const m = mean(totals) ?? 0
  // Both variances are those of the group as it is, divided by n.
  const total = sum(totals, (t) => (t - m) ** 2) / scores.length
  if (total < 1e-12) return null
  const own = sum(
    Array.from({ length: items }, (_, i) => mean(scores, (row) => row[i]) ?? 0),
    (p) => p * (1 - p),
  )
  return (items / (items - 1)) * (1 - own / total)
}

/**
 * The difference between the upper and the lower 27 %; students who stand alike at an edge count for the part of them that
 * the group has room for, so that the order of rows changes nothing.
 */
export function upperLowerIndex(item: readonly number[], totals: readonly number[]): number | null {
  const n = item.length
  if (n < 4) return null
  const size = Math.max(1, Math.round(0.27 * n))
  const byTotal = [...new Set(totals)].sort((a, b) => a - b)
  const groupMean = (order: readonly number[]) => {
    let left = size
    let got = 0
    for (const total of order) {
      const here = item.filter((_, i) => totals[i] === total)
      const taken = Math.min(left, here.length)
      got += taken * (mean(here) ?? 0)
      left -= taken
      if (left <= 0) break
    }
    return got / size
  }
  return groupMean([...byTotal].reverse()) - groupMean(byTotal)
}

/**
 * @param scores a row for each student, a share 0…1 for each item
 * @param points of the items
 */
export function setStatistics(scores: readonly (readonly number[])[], points: readonly number[]): SetStatistics {
  const inPoints = scores.map((row) => row.map((share, i) => share * (points[i] ?? 0)))
  const totals = inPoints.map((row) => sum(row))
  const spread = deviation(totals) ?? null
  const alpha = cronbachAlpha(inPoints)
  return {
    items: points.map((_, i) => {
      const own = scores.map((row) => row[i] ?? 0)
      const others = inPoints.map((row, s) => (totals[s] ?? 0) - (row[i] ?? 0))
      return {
        difficulty: mean(own) ?? null,
        discrimination: points.length > 1 ? correlation(own, others) : null,
        // One item by itself parts those who have it from those who do not, and says nothing.
        upperLower: points.length > 1 ? upperLowerIndex(own, totals) : null,
      }
    }),
    count: scores.length,
    mean: mean(totals) ?? null,
    deviation: spread,
    least: totals.length > 0 ? (min(totals) ?? Infinity) : null,
    most: totals.length > 0 ? (max(totals) ?? -Infinity) : null,
    alpha,
    kr20: kuderRichardson20(scores),
    error: alpha !== null && spread !== null ? spread * Math.sqrt(Math.max(0, 1 - alpha)) : null,
  }
}
