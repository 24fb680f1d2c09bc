/** Lectures that are picked on the term, to do something to all of them. */
import { defineStore } from 'pinia'

export const usePicked = defineStore('picked', () => {
  const picking = ref(false)
  const ids = shallowRef<ReadonlySet<string>>(new Set())
  function toggle(id: string): void {
    const next = new Set(ids.value)
    if (!next.delete(id)) next.add(id)
    ids.value = next
  }
  function put(all: readonly string[]): void {
    ids.value = new Set(all)
  }
  function end(): void {
    picking.value = false
    ids.value = new Set()
  }
  return { picking, ids, toggle, put, end }
})
