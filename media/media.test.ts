import { describe, expect, it } from 'vitest'
import { nominalFrameRate } from './probe'

describe('frame rates', () => {
  it.each([
    [29.97, 30],
    [23.976, 24],
    [14.9, 15],
    [12.51, 12.5],
    [7.1, 7],
    [0.2, 1],
    [240, 60],
    [59.94, 60],
  ])('of %d are called %d', (measured, nominal) => {
    expect(nominalFrameRate(measured)).toBe(nominal)
  })
})
