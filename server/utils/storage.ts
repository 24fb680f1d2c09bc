/** The server's storage, by room. Keys are joined by colons; ids have been checked before they come here. */
export const store = () => useStorage('thaw')

/** Keys below `base` without it. */
export async function keysBelow(base: string): Promise<string[]> {
  return (await store().getKeys(base)).map((k) => k.slice(base.length + 1))
}

const chains = new Map<string, Promise<unknown>>()

/** Runs `task` after everything that was queued under the same name: one writer at a time. */
export function inTurn<T>(name: string, task: () => Promise<T>): Promise<T> {
  const before = chains.get(name) ?? Promise.resolve()
  const mine = before.then(task, task)
  chains.set(name, mine)
  const forget = () => {
    if (chains.get(name) === mine) chains.delete(name)
  }
  mine.then(forget, forget)
  return mine
}
