import { AudioSample } from 'mediabunny'
import { describe, expect, it } from 'vitest'
import { nominalFrameRate } from './probe'
import { toMono } from './sound'

describe('frame rates', () => {
  it.each([[29.97, 30], [23.976, 24], [14.9, 15], [12.51, 12.5], [7.1, 7], [0.2, 1], [240, 60], [59.94, 60]])('of %d are called %d', (measured, nominal) => {
    expect(nominalFrameRate(measured)).toBe(nominal)
  })
})

describe('mono', () => {
  it('is the mean of all channels', () => {
    const sample = new AudioSample({ data: Float32Array.of(1, 0, 0.5, -0.5, -1, -1), format: 'f32', numberOfChannels: 2, sampleRate: 48_000, timestamp: 0 })
    expect([...toMono(sample)]).toEqual([0.5, 0, -1])
    sample.close()
  })
})
