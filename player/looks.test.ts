import { describe, expect, it } from 'vitest'
import { readLooks, styleOf, writeLooks } from './looks'

const device = (kept = new Map<string, string>()) => ({
  getItem: (k: string) => kept.get(k) ?? null,
  setItem: (k: string, v: string) => void kept.set(k, v),
})

describe('how captions look', () => {
  it('is kept on the device', () => {
    const storage = device()
    const looks = { size: 'largest', ground: 'none', place: 'top' } as const
    writeLooks(storage, looks)
    expect(readLooks(storage)).toEqual(looks)
  })
  it('is as usual where nothing is kept, or something that nobody knows', () => {
    const usual = { size: 'usual', ground: 'dark', place: 'as the lecture has it' }
    expect(readLooks(device())).toEqual(usual)
    expect(readLooks(device(new Map([['thaw-caption-looks', 'huge|toString|left']])))).toEqual(usual)
  })
  it('can always be read: dark on light, light on dark, with an outline where there is no ground', () => {
    const looks = { size: 'usual', place: 'foot' } as const
    expect(styleOf({ ...looks, ground: 'light' })).toMatchObject({
      '--caption-ground': '#fff',
      '--caption-ink': '#000',
    })
    expect(styleOf({ ...looks, ground: 'none' })['--caption-edge']).toContain('#000')
  })
})
