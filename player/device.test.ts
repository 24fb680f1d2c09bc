import { describe, expect, it, vi } from 'vitest'
import { deviceStorage } from './device'

describe('what is kept on a device', () => {
  it('is kept by the page where the browser refuses, as it may inside another site’s page', () => {
    vi.spyOn(console, 'warn').mockImplementation(() => undefined)
    for (const refusing of [
      () => {
        throw new DOMException('denied', 'SecurityError')
      },
      () =>
        ({
          setItem() {
            throw new DOMException('full', 'QuotaExceededError')
          },
        }) as unknown as Storage,
    ]) {
      const storage = deviceStorage(refusing)
      storage.setItem('a', '1')
      expect([storage.getItem('a'), storage.getItem('b')]).toEqual(['1', null])
      storage.removeItem('a')
      expect(storage.getItem('a')).toBeNull()
    }
  })
  it('is kept by the browser where it does', () => {
    const kept = new Map<string, string>()
    const browser = {
      getItem: (k: string) => kept.get(k) ?? null,
      setItem: (k: string, v: string) => void kept.set(k, v),
      removeItem: (k: string) => void kept.delete(k),
    } as Storage
    deviceStorage(() => browser).setItem('a', '1')
    expect([...kept]).toEqual([['a', '1']])
  })
})
