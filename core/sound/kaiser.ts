/** The window of J. F. Kaiser (1974): near the best for its length, its shape told by one number. */

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel(x: number): number {
  let sum = 1
  for (let k = 1, term = 1; term > 1e-12 * sum; k++) sum += term *= (x / (2 * k)) ** 2
  return sum
}

/**
 * @param x place in the window, −1…1; 0 outside
 * @param beta the higher, the wider the main lobe and the lower the side lobes: 8 is about −80 dB, 10 about −100 dB
 */
export function kaiser(x: number, beta: number): number {
  const inside = 1 - x * x
  return inside <= 0 ? 0 : bessel(beta * Math.sqrt(inside)) / bessel(beta)
}
