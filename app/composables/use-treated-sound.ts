import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { soundOf } from '#core/record/recording'
import { joinLoudness } from '#core/sound/loudness'
import { db } from '~/db/database'
import { useDesk } from '~/stores/desk'

/**
 * How the lecture on the desk sounds once it is treated: where its sound without noise can be read, and how much louder
 * it is to be. A person may listen to it as it was recorded instead.
 */
export function useTreatedSound() {
  const desk = useDesk()
  const takes = computed(() =>
    (desk.recording?.takes ?? []).flatMap((take) => {
      const sound = desk.recording && soundOf(desk.recording, take.id)
      return sound ? [{ id: take.id, fileId: sound.fileId, seconds: take.to - take.from }] : []
    }),
  )
  const names = () => takes.value.map((t) => `${t.id} ${t.fileId}`).join(' ')
  const rows = useLive(async () => {
    const ids = takes.value.map((t) => t.id)
    return { quiets: await db.quiets.bulkGet(ids), found: await db.analyses.bulkGet(ids) }
  }, [names])
  /** By take, what was made of the sound that it has now. */
  const quiets = computed(
    () =>
      new Map(
        (rows.value?.quiets ?? []).flatMap((row, i) =>
          row && row.fileId === takes.value[i]?.fileId ? [[row.takeId, row] as const] : [],
        ),
      ),
  )
  const treatment = computed(() => (desk.hearsTreated ? desk.edit?.sound : undefined))
  const isQuiet = computed(() => treatment.value?.noise === 'reduce')

  /** Addresses by take and file: what is played goes on, whatever else is found out about a take. */
  const urls = shallowRef(new Map<string, string>())
  const nameOf = ({ takeId, fileId }: { takeId: string; fileId: string }) => `${takeId} ${fileId}`
  watch(
    quiets,
    (now) => {
      const next = new Map([...now.values()].map((row) => [nameOf(row), row.sound]))
      if (next.size === urls.value.size && [...next.keys()].every((name) => urls.value.has(name))) return
      const before = urls.value
      urls.value = new Map([...next].map(([name, sound]) => [name, before.get(name) ?? URL.createObjectURL(sound)]))
      for (const [name, url] of before) if (!next.has(name)) URL.revokeObjectURL(url)
    },
    { immediate: true },
  )
  onScopeDispose(() => urls.value.forEach((url) => URL.revokeObjectURL(url)))

  return {
    /** Where a take's sound without noise can be read, while it is to be heard so; empty otherwise. */
    urlOf: (feed: { takeId: string; fileId: string }) => (isQuiet.value ? (urls.value.get(nameOf(feed)) ?? '') : ''),
    /** Whether noise is to be taken out of something whose sound without it is not there yet. */
    lacks: computed(() => desk.edit?.sound.noise === 'reduce' && takes.value.some((t) => !quiets.value.has(t.id))),
    /** By how much all that is heard is made louder, an amplitude. */
    gain: computed(() => {
      const target = treatment.value?.loudness
      if (target === undefined || target === null) return 1
      const parts = takes.value.map(({ id, seconds }, i) => ({
        seconds,
        loudness:
          (isQuiet.value ? quiets.value.get(id)?.loudness : undefined) ??
          rows.value?.found[i]?.sound?.loudness.integrated ??
          -Infinity,
      }))
      const now = joinLoudness(parts)
      return Number.isFinite(now) ? 10 ** ((target - now) / 20) : 1
    }),
  }
}
export type TreatedSound = ReturnType<typeof useTreatedSound>
