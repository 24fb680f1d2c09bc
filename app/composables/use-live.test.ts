import 'fake-indexeddb/auto'
import { effectScope } from 'vue'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { db } from '~/db/database'
import { useLive } from './use-live'

let scope = effectScope()
beforeEach(() => {
  scope = effectScope()
})
afterEach(() => scope.stop())

describe('what follows the database', () => {
  it.each([0, 60])('sees every change, after %i ms of rest too', async (rest) => {
    await db.settings.clear()
    let asked = 0
    const count = () => {
      asked++
      return db.settings.count()
    }
    const value = scope.run(() => useLive(count, [], rest))!
    await expect.poll(() => value.value).toBe(0)
    for (let n = 1; n <= 3; n++) {
      const before = performance.now()
      await db.settings.put({ key: `k${n}`, value: 'v' })
      await expect.poll(() => value.value, { interval: 5 }).toBe(n)
      expect(performance.now() - before).toBeGreaterThan(rest - 5)
    }
    expect(asked).toBeLessThanOrEqual(8)
  })
})
