/**
 * What is chosen on the time line, of whichever documents, and what is done to it: moved, dropped, copied, put in
 * again. One gesture is one step in the history of each document that it changes.
 */
import { max, min } from 'd3-array'
import { defineStore } from 'pinia'
import { shareAssets } from '~/services/assets'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import {
  dropItems,
  isSame,
  itemsIn,
  placedAt,
  putItems,
  rangeOf,
  type ItemRef,
  type Timed,
} from '#core/documents/items'
import { copyOf, kinds, newDocument, type DocumentKind, type Documents, type Kind } from '#core/documents/kinds'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { recorded, type RecordedRange, type RecordedTime } from '#core/time/units'

interface Copied extends Omit<ItemRef, 'id'> {
  item: Timed
}

/** Names of the files that an item shows. */
const filesOf = (item: Timed): string[] => {
  const { what } = item as { what?: { file?: string } }
  return what?.file ? [what.file] : []
}

export const useChosen = defineStore('chosen', () => {
  const desk = useDesk()
  const refs = shallowRef<readonly ItemRef[]>([])
  /** What was copied, and the lecture that it is from. */
  const clipboard = shallowRef<{ lectureId: string; items: readonly Copied[] } | null>(null)

  const documentOf = (kind: Kind): Documents[Kind] | null => desk[kind]
  const itemOf = (ref: ItemRef): Timed | undefined => itemsIn(documentOf(ref.kind), ref).find((i) => i.id === ref.id)
  /** Those that are still there. */
  const items = computed(() =>
    refs.value.flatMap((ref) => {
      const item = itemOf(ref)
      return item ? [{ ref, item }] : []
    }),
  )
  /** The only one that is chosen. */
  const one = computed(() => (items.value.length === 1 ? (items.value[0] ?? null) : null))
  const has = (ref: ItemRef) => refs.value.some((r) => isSame(r, ref))

  /** @param more whether it joins what is chosen, or leaves it when it is among that */
  function choose(ref: ItemRef, more = false): void {
    // One thing at a time is what keys are about: what is chosen, or a stretch of the sound.
    desk.selection = null
    if (!more) refs.value = [ref]
    else if (has(ref)) refs.value = refs.value.filter((r) => !isSame(r, ref))
    else refs.value = [...refs.value, ref]
  }
  const clear = () => {
    refs.value = []
  }
  watch(() => desk.lecture?.id, clear)
  watch(
    () => desk.selection,
    (selection) => {
      if (selection) clear()
    },
    { flush: 'sync' },
  )

  const say = (of: readonly { ref: ItemRef; item: Timed }[]): string => {
    const [first] = of
    if (!first || of.length > 1) return sayCount(of.length, 'thing', 'things')
    return `“${kinds[first.ref.kind].name(first.item)}”`
  }

  /** Puts items into their documents; those that are there are replaced. @param field what is being changed bit by bit */
  async function put(of: readonly { ref: Omit<ItemRef, 'id'>; item: Timed }[], says: string, field?: string) {
    for (const kind of new Set(of.map((o) => o.ref.kind))) {
      const own = of.filter((o) => o.ref.kind === kind)
      const before = documentOf(kind) ?? newDocument(kind, desk.lecture?.title ?? '')
      let next: Documents[Kind] = before
      for (const list of new Set(own.map((o) => o.ref.list)))
        next = putItems(
          kinds[kind].lists,
          next,
          list,
          own.filter((o) => o.ref.list === list).map((o) => o.item),
        )
      const follow = kinds[kind].placed as DocumentKind<Documents[Kind]>['placed']
      const ids = new Set(own.map((o) => o.item.id))
      await desk.change(kind, follow ? follow(before, next, ids) : next, { says, ...(field && { field }) })
    }
  }

  /** Moves what is chosen. @param to where each then stands */
  async function place(to: (range: RecordedRange) => RecordedRange, of = items.value, field?: string): Promise<void> {
    const moved = of.map(({ ref, item }) => ({ ref, item: placedAt(item, to(rangeOf(item))) }))
    const first = moved[0]
    if (first) await put(moved, `Moved ${say(of)} to ${desk.sayTime(rangeOf(first.item).from, 1)}`, field)
  }

  async function drop(of = items.value): Promise<void> {
    const says = `Dropped ${say(of)}`
    for (const kind of new Set(of.map((o) => o.ref.kind))) {
      let next = documentOf(kind)
      if (!next) continue
      const dropFrom = (kinds[kind].drop ?? dropItems) as typeof dropItems
      for (const list of new Set(of.map((o) => o.ref.list)))
        next = dropFrom(next, list, new Set(of.filter((o) => o.ref.list === list).map((o) => o.ref.id)))
      await desk.change(kind, next, { says })
    }
    clear()
  }

  function copy(): boolean {
    const lectureId = desk.lecture?.id
    if (!lectureId || items.value.length === 0) return false
    clipboard.value = {
      lectureId,
      items: items.value.map(({ ref: { kind, list }, item }) => ({ kind, list, item })),
    }
    return true
  }

  /** Puts copies in; the first begins at `at`, and the others stand to it as they did. */
  async function add(copied: readonly Copied[], at: RecordedTime): Promise<void> {
    const first = min(copied, (c) => rangeOf(c.item).from) ?? Infinity
    const { duration } = desk.map
    const added = copied.map(({ kind, list, item }) => {
      const { from, to } = rangeOf(item)
      const start = Math.min(duration, at + (from - first))
      const range = { from: recorded(start), to: recorded(Math.min(duration, start + (to - from))) }
      return { ref: { kind, list }, item: placedAt(copyOf(kind, item, newId), range) }
    })
    const fits = added.filter(({ item }) => 'at' in item || item.to > item.from)
    await put(fits, `Put in ${say(fits.map(({ ref, item }) => ({ ref: { ...ref, id: item.id }, item })))} again`)
    refs.value = fits.map(({ ref, item }) => ({ ...ref, id: item.id }))
  }

  async function paste(at: RecordedTime): Promise<void> {
    const id = desk.lecture?.id
    const from = clipboard.value
    if (!id || !from || from.items.length === 0) return
    try {
      if (from.lectureId !== id)
        await shareAssets(
          from.items.flatMap((c) => filesOf(c.item)),
          id,
        )
      await add(from.items, at)
    } catch (error) {
      desk.problem = errorMessage(error)
    }
  }

  /** The same again, right after what is chosen. */
  async function duplicate(): Promise<void> {
    const copied = items.value.map(({ ref: { kind, list }, item }) => ({ kind, list, item }))
    if (copied.length === 0) return
    const last = max(copied, (c) => rangeOf(c.item).to) ?? -Infinity
    const isInstant = copied.every((c) => 'at' in c.item)
    await add(copied, recorded(isInstant ? last + 1 : last))
  }

  return { refs, items, one, has, choose, clear, say, put, place, drop, copy, paste, duplicate, clipboard }
})
