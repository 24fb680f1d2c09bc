import { expect, test } from 'vitest'
import { leadingSpeed } from './lead'

/** How far something is apart after some seconds of being led forty times a second, s. */
function led(apart: number, speed: number, seconds: number): number {
  for (let t = 0; t < seconds; t += 0.04) apart += 0.04 * (leadingSpeed(apart, speed) - speed)
  return apart
}

test('what is near is left alone', () => {
  expect(leadingSpeed(0.005, 1.5)).toBe(1.5)
})
test('what is ahead or behind is back within a second, at any speed, and never plays backward', () => {
  for (const speed of [0.5, 1, 2, 3])
    for (const apart of [-0.3, -0.05, 0.05, 0.3]) {
      expect(Math.abs(led(apart, speed, 1.2)), `${apart} s at ${speed} ×`).toBeLessThan(0.012)
      expect(leadingSpeed(apart, speed)).toBeGreaterThanOrEqual(0)
    }
})
test('asks for no speed that a browser refuses', () => {
  // Chromium throws between 0 and 0.0625, and beyond 16.
  for (const speed of [0.25, 0.5, 1, 3, 16])
    for (let apart = -0.5; apart <= 0.5; apart += 0.001) {
      const asked = leadingSpeed(apart, speed)
      expect(asked === 0 || (asked >= 0.0625 && asked <= 16), `${asked} for ${apart} s at ${speed} ×`).toBe(true)
    }
})
