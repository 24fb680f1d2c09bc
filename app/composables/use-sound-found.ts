import { computed } from 'vue'
import { db, type AnalysisRow } from '~/db/database'
import { joinSound, type PlacedProposal, type Recording } from '#core/record/recording'

/** What was found in the sound of a recording's takes, as it becomes known. */
export function useSoundFound(recording: () => Recording | null) {
  const takes = () => recording()?.takes ?? []
  const rows = useLive(async () => {
    const found = await db.analyses.bulkGet(takes().map((t) => t.id))
    return new Map(found.flatMap((row): [string, AnalysisRow][] => (row ? [[row.takeId, row]] : [])))
  }, [
    () =>
      takes()
        .map((t) => t.id)
        .join(' '),
  ])
  const joined = computed(() => {
    const now = recording()
    return now && rows.value ? joinSound(now, rows.value) : null
  })
  return {
    proposals: computed(() => joined.value?.proposals ?? []),
    clipping: computed(() => joined.value?.clipping ?? []),
    silences: computed(() => joined.value?.silences ?? []),
    /** The measures of each take that was listened to, with its number from 1. */
    measures: computed(() =>
      takes().flatMap(({ id }, i) => {
        const sound = rows.value?.get(id)?.sound
        return sound ? [{ take: i + 1, loudness: sound.loudness, noiseFloor: sound.noiseFloor }] : []
      }),
    ),
    /** Whether some sound is still to be listened to. */
    pending: computed(() => {
      const now = recording()
      return (
        now?.takes.some(
          (t) => now.feeds.some((f) => f.takeId === t.id && f.kind === 'sound') && !rows.value?.get(t.id)?.sound,
        ) ?? false
      )
    }),
    /** Whether a proposal was left before. */
    isLeft: ({ takeId, own }: Pick<PlacedProposal, 'takeId' | 'own'>) =>
      rows.value?.get(takeId)?.left?.some((t) => Math.abs(t - own) < 1e-6) ?? false,
    /** Leaves what was proposed as it is, for good. */
    async leave({ takeId, own }: Pick<PlacedProposal, 'takeId' | 'own'>): Promise<void> {
      await db.analyses
        .where('takeId')
        .equals(takeId)
        .modify((row) => {
          row.left = [...(row.left ?? []), own]
        })
    },
  }
}
