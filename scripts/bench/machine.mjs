// How busy the machine is beside what is measured, told by a loop that always does the same.

/** How much longer the loop may take on one side of a row than on the other. */
const STEADY = 4 / 3
/** How often a row is run for a steady machine. */
const MOST = 3

/** Time that a fixed piece of work takes in this process now, ms; some 200 on a quiet machine. */
export function fixedLoop() {
  const began = performance.now()
  let state = 1
  for (let i = 0; i < 60_000_000; i++) {
    // xorshift32 (Marsaglia 2003), so that nothing of it can be left out.
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
  }
  if (state === 0) throw new Error('The loop did something else.')
  return performance.now() - began
}

/**
 * Runs a row between two loops, and again when these differ by more than a third: then something else began or ended
 * meanwhile.
 * @template T
 * @param {() => Promise<T>} row
 * @param {() => number} loop ms
 * @returns {Promise<{ result: T, machine: { before: number, after: number, runs: number } }>} of the last run; ms
 */
export async function betweenLoops(row, loop = fixedLoop) {
  for (let runs = 1; ; runs++) {
    const before = loop()
    const result = await row()
    const after = loop()
    const machine = { before: Math.round(before), after: Math.round(after), runs }
    const isSteady = Math.max(before, after) <= STEADY * Math.min(before, after)
    if (isSteady || runs === MOST) return { result, machine }
  }
}
