import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { db } from '~/db/database'
import { filmsBehind } from '~/services/backdrops'
import { useDesk } from '~/stores/desk'

/** The cameras' films with another background, as far as they are made, for the lecture on the desk. */
export function useBackdrops() {
  const desk = useDesk()
  const wanted = computed(() => filmsBehind(desk.edit, desk.recording))
  const names = () => wanted.value.map((w) => w.key).join(' ')
  const rows = useLive(() => db.backdrops.bulkGet(wanted.value.map((w) => w.takeId)), [names])
  const ready = computed(
    () => new Map((rows.value ?? []).flatMap((row) => (row ? [[row.key, row.parts] as const] : []))),
  )
  /** Addresses by what they show. */
  const urls = shallowRef(new Map<string, string>())
  watch(
    [ready, wanted],
    ([films, now]) => {
      const before = urls.value
      const next = new Map<string, string>()
      for (const { key } of now) {
        const parts = films.get(key)
        if (parts) next.set(key, before.get(key) ?? URL.createObjectURL(new Blob(parts, { type: 'video/mp4' })))
      }
      if (next.size === before.size && [...next.keys()].every((key) => before.has(key))) return
      urls.value = next
      for (const [key, url] of before) if (!next.has(key)) URL.revokeObjectURL(url)
    },
    { immediate: true },
  )
  onScopeDispose(() => urls.value.forEach((url) => URL.revokeObjectURL(url)))
  const keys = computed(() => new Map(wanted.value.map((w) => [w.fileId, w.key])))
  return {
    /** Where the film that stands for a camera’s can be read; empty while there is none, or none is wanted. */
    urlOf: ({ fileId }: { fileId: string }) => urls.value.get(keys.value.get(fileId) ?? '') ?? '',
    /** Whether some that are wanted are not made yet. */
    lacks: computed(() => rows.value !== undefined && wanted.value.some((w) => !ready.value.has(w.key))),
  }
}
