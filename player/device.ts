/**
 * What the player keeps on this device. Inside another site's page a browser may refuse that; then it is kept as long
 * as the page.
 */

type Kept = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>

/** The browser's storage, or one in memory where there is none. */
export function deviceStorage(storage: () => Storage): Kept {
  try {
    const found = storage()
    found.setItem('thaw-probe', '1')
    found.removeItem('thaw-probe')
    return found
  } catch (error) {
    console.warn('this browser keeps nothing for the lecture', error)
    const held = new Map<string, string>()
    return {
      getItem: (key) => held.get(key) ?? null,
      setItem: (key, value) => void held.set(key, value),
      removeItem: (key) => void held.delete(key),
    }
  }
}
