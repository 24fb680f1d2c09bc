import { expect, it } from 'vitest'
import { betweenLoops, fixedLoop } from './bench/machine.mjs'

/** A row that tells its number, between loops that take what is given, ms. */
function rows(...times: number[]) {
  let runs = 0
  return betweenLoops(
    () => Promise.resolve(++runs),
    () => times.shift() ?? Number.NaN,
  )
}

it('a row counts at once on a machine that stays as busy as it was', async () => {
  expect(await rows(300, 399)).toEqual({ result: 1, machine: { before: 300, after: 399, runs: 1 } })
  expect(await rows(399, 300)).toMatchObject({ result: 1 })
})
it('is run again where something else began or ended, three times at most', async () => {
  expect(await rows(300, 401, 400, 410)).toEqual({ result: 2, machine: { before: 400, after: 410, runs: 2 } })
  expect(await rows(300, 900, 900, 300, 300, 900)).toEqual({ result: 3, machine: { before: 300, after: 900, runs: 3 } })
})
it('the loop takes a time that can be compared', () => {
  expect(fixedLoop()).toBeGreaterThan(10)
})
